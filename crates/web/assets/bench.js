// The bench: ties the controls, the picture, the history and the keys together.
import { listen, paintAll } from './controls.js';
import { say } from './messages.js';
import { View } from './view.js';

const frame = JSON.parse(document.getElementById('ag-state').textContent);
const app = document.getElementById('ag-app');
const $ = (id) => document.getElementById(id);
const station = () => $('ag-bench').dataset.station;

// ---- the picture

const view = new View($('ag-canvas'), frame, frame.values, ({ zoom, fitted, rendering, problem }) => {
  if (zoom !== undefined) {
    const percent = zoom * 100;
    $('ag-zoom').textContent = `${percent < 10 ? percent.toFixed(1) : Math.round(percent)} %`;
    $('ag-fit').setAttribute('aria-pressed', fitted);
    $('ag-one').setAttribute('aria-pressed', Math.abs(zoom - 1) < 1e-3);
    $('ag-canvas').classList.toggle('ag-grab', !fitted);
  }
  if (rendering !== undefined) $('ag-line').classList.toggle('ag-rendering', rendering);
  if (problem) say(problem, { problem: true });
});

// ---- values and history

let committing = Promise.resolve();
let pendingKey = null;

function post(path, values) {
  // one at a time: each answer brings the revision that the next one needs
  committing = committing.then(() => htmx.ajax('POST', `/frames/${frame.id}/${path}`, {
    source: document.body, swap: 'none', values: { revision: frame.revision, station: station(), ...values },
  }).catch(() => {}));
  return committing;
}

const commit = () => post('development', { get values() { return JSON.stringify(frame.values); } });

listen(document, (id, value, own, moving) => {
  if (own) delete frame.values[id];
  else frame.values[id] = value;
  view.setValues({ ...frame.values }, id, moving !== false);
  clearTimeout(pendingKey);
  if (moving === false) commit();
  // a run of key presses is one step
  if (moving === 'key') pendingKey = setTimeout(() => { view.request('settled'); commit(); }, 400);
});

document.body.addEventListener('ag:frame', (e) => {
  const { revision, values, stock, anew, message } = e.detail;
  frame.revision = revision;
  if (anew) {
    frame.values = values;
    view.setValues({ ...values }, '', false);
  }
  const changedStock = stock !== frame.stock;
  frame.stock = stock;
  if (message) say(message, changedStock && anew ? { action: { label: 'Undo', run: () => post('step', { step: 'undo' }) } } : {});
});

document.body.addEventListener('htmx:responseError', (e) => {
  const { status, responseText } = e.detail.xhr;
  const reload = { label: 'Reload', run: () => location.reload() };
  say(responseText || 'That did not work.', { problem: true, action: status === 409 && /elsewhere/.test(responseText) ? reload : undefined });
});
document.body.addEventListener('htmx:sendError', () => say('The application does not answer. Is it still running?', { problem: true }));

// after a swap the same control keeps the focus
let focused = null;
document.body.addEventListener('htmx:oobBeforeSwap', () => { focused = document.activeElement?.id || focused; });
document.body.addEventListener('htmx:oobAfterSwap', () => {
  paintAll();
  if (focused && document.activeElement === document.body) $(focused)?.focus({ focusVisible: true });
});
document.body.addEventListener('htmx:afterSettle', () => { focused = null; });

// ---- stations

function openStation(id, byKey) {
  if (id === station() && !app.classList.contains('ag-closed')) {
    app.classList.add('ag-closed');
    return;
  }
  app.classList.remove('ag-closed');
  if (id === station()) return;
  htmx.ajax('GET', `/frames/${frame.id}/bench?station=${id}`, { source: document.body, swap: 'none' }).then(() => {
    history.replaceState(null, '', `?station=${id}`);
    paintAll();
    if (byKey) ($('ag-bench').querySelector('.ag-tuned .ag-track') ?? $('ag-bench').querySelector('.ag-track, button'))?.focus({ focusVisible: true });
  });
}

document.addEventListener('click', (e) => {
  const opener = e.target.closest('[data-station]');
  if (opener && opener.id !== 'ag-bench') {
    e.preventDefault();
    openStation(opener.dataset.station, false);
  }
  const tile = e.target.closest('[data-stock]');
  if (tile && tile.dataset.stock !== frame.stock) post('stock', { stock: tile.dataset.stock });
  const step = e.target.closest('[data-step]');
  if (step && step.matches('button')) post('step', { step: step.dataset.step });
  const surround = e.target.closest('[data-surround]');
  if (surround && surround.matches('button')) setSurround(surround.dataset.surround);
});

function setSurround(name) {
  document.documentElement.dataset.surround = name;
  localStorage.setItem('ag-surround', name);
  document.querySelectorAll('.ag-swatches button').forEach((b) => b.setAttribute('aria-pressed', b.dataset.surround === name));
}
setSurround(localStorage.getItem('ag-surround') ?? 'mid');

// ---- compare and zoom

const hold = (on) => {
  view.showOriginal(on);
  $('ag-hold').setAttribute('aria-pressed', on);
  $('ag-tag').hidden = !on;
  $('ag-tag').textContent = 'Original';
};
$('ag-hold').addEventListener('pointerdown', (e) => { e.currentTarget.setPointerCapture(e.pointerId); hold(true); });
for (const end of ['pointerup', 'pointercancel']) $('ag-hold').addEventListener(end, () => hold(false));
$('ag-hold').addEventListener('keydown', (e) => { if (['Space', 'Enter'].includes(e.code)) hold(true); });
$('ag-hold').addEventListener('keyup', () => hold(false));
window.addEventListener('blur', () => hold(false));
$('ag-fit').addEventListener('click', () => view.fit());
$('ag-one').addEventListener('click', () => view.oneToOne());

// ---- keys

const isTyping = (e) => e.target.closest?.('input:not([type=range]):not([type=radio]), textarea, select');
const dialogOpen = () => $('ag-export').classList.contains('show');
const STATIONS = { Digit1: 'scene', Digit3: 'film', Digit5: 'print' };

document.addEventListener('keydown', (e) => {
  if (isTyping(e) || dialogOpen()) return;
  if ((e.ctrlKey || e.metaKey) && e.code === 'KeyZ') {
    e.preventDefault();
    $('ag-undo').querySelector(`[data-step=${e.shiftKey ? 'redo' : 'undo'}]:not([disabled])`)?.click();
    return;
  }
  if (e.ctrlKey || e.metaKey || e.altKey) return;
  if (STATIONS[e.code] && !e.shiftKey) { openStation(STATIONS[e.code], true); return; }
  const act = {
    KeyO: () => { if (!e.repeat) hold(true); },
    KeyF: () => view.fit(),
    KeyZ: () => view.oneToOne(view.pointer),
    KeyE: () => { e.preventDefault(); $('ag-export-open').click(); },
    KeyG: () => setSurround({ dark: 'mid', mid: 'light', light: 'dark' }[document.documentElement.dataset.surround]),
    Equal: () => view.zoomTo(view.scale * Math.SQRT2, view.pointer),
    NumpadAdd: () => view.zoomTo(view.scale * Math.SQRT2, view.pointer),
    Minus: () => view.zoomTo(view.scale / Math.SQRT2, view.pointer),
    NumpadSubtract: () => view.zoomTo(view.scale / Math.SQRT2, view.pointer),
    PageUp: () => $('ag-previous')?.click(),
    PageDown: () => $('ag-next')?.click(),
  }[e.code];
  if (act) act();
  if (e.target.id === 'ag-canvas' && e.code.startsWith('Arrow')) {
    const step = e.shiftKey ? 10 : 60;
    const [dx, dy] = { ArrowLeft: [step, 0], ArrowRight: [-step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[e.code];
    view.pan(dx, dy);
    e.preventDefault();
  }
});
document.addEventListener('keyup', (e) => { if (e.code === 'KeyO') hold(false); });

// ---- what a control is for, in the line at the foot

const help = (e) => {
  const control = e.target.closest?.('[data-control]') ?? e.target.closest?.('.ag-seg')?.previousElementSibling;
  $('ag-help').textContent = control?.getAttribute('title') ?? '';
  app.classList.toggle('ag-helping', !!control);
};
document.addEventListener('focusin', help);
document.addEventListener('pointerover', help);

// ---- export

$('ag-export-quality').addEventListener('input', (e) => { $('ag-quality-out').textContent = e.target.value; });
$('ag-export').addEventListener('shown.bs.modal', () => { $('ag-export-name').focus(); $('ag-export-name').select(); });
$('ag-export-form').addEventListener('change', (e) => {
  if (e.target.name === 'format') $('ag-export-quality').disabled = e.target.value === 'tiff';
});

paintAll();
