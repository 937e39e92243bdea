// The bench: ties the controls, the picture, the history and the keys together.
import { listen, paintAll, show } from './controls.js';
import { Densitometer } from './densitometer.js';
import { say } from './messages.js';
import { Masks } from './masks.js';
import { Metering } from './metering.js';
import { Picker } from './picker.js';
import { drawMiddle } from './places.js';
import { listenCurves, loadSpreads, paintCurves } from './tone-curve.js';
import { Tone } from './tone.js';
import { View } from './view.js';
import { Zones } from './zones.js';

const frame = JSON.parse(document.getElementById('ag-state').textContent);
const app = document.getElementById('ag-app');
const $ = (id) => document.getElementById(id);
const station = () => $('ag-bench').dataset.station;
const page = () => $('ag-bench').dataset.page;

// ---- the picture

let meter = null, zones = null, picker = null, masks = null, tone = null;

const view = new View($('ag-canvas'), frame, frame.values, ({ zoom, fitted, rendering, settled, problem }) => {
  if (settled === 'developed') {
    meter?.load(view.values); zones?.load(); tone?.load(); loadSpreads(frame.id, view.values);
  }
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

meter = new Densitometer(frame, $('ag-canvas'), view);
view.over = (g, ...at) => {
  meter.overlay(g, ...at);
  if (picker?.tool === 'place') drawMiddle(g, view.values, ...at);
  picker?.overlay(g, ...at);
  if (!picker?.on) masks?.paint(g, ...at);
};

// ---- values and history

let committing = Promise.resolve(), queued = 0, failed = false;

// a run of key presses is one step: kept a moment after the last one, or before anything else happens
const RUN_MS = 400;
let running = null;
const keepSoon = () => {
  clearTimeout(running);
  running = setTimeout(flush, RUN_MS);
};
function flush() {
  if (running === null) return;
  clearTimeout(running);
  running = null;
  view.request('settled');
  commit();
}
const unsaved = () => running !== null || queued > 0;

function post(path, values) {
  flush();
  // one at a time: each answer brings the revision that the next one needs
  queued += 1;
  failed = false;
  committing = committing.then(() => htmx.ajax('POST', `/frames/${frame.id}/${path}`, {
    source: document.body, swap: 'none', values: { revision: frame.revision, station: station(), page: page(), ...values },
  }).catch(() => {})).finally(() => { queued -= 1; });
  return committing;
}

// only the masks that were changed are sent: they may hold many strokes
const written = (masks) => new Map(Object.entries(masks).map(([id, mask]) => [id, JSON.stringify(mask)]));
const same = (a, b) => a.size === b.size && [...a].every(([id, text]) => b.get(id) === text);
let keptMasks = written(frame.masks), sentMasks = keptMasks;
const masksChanged = () => !same(written(frame.masks), keptMasks);

function masksToSend() {
  sentMasks = written(frame.masks);
  if (same(sentMasks, keptMasks)) return '';
  const changed = [...sentMasks].filter(([id, text]) => keptMasks.get(id) !== text);
  const gone = [...keptMasks.keys()].filter((id) => !sentMasks.has(id)).map((id) => [id, 'null']);
  return `{${[...changed, ...gone].map(([id, text]) => `${JSON.stringify(id)}:${text}`).join(',')}}`;
}

const commit = (anew = false) => post('development', {
  anew,
  get values() { return JSON.stringify(frame.values); },
  get masks() { return masksToSend(); },
});

// what is shown is kept, whichever way the page is left
function leave(href) {
  flush();
  committing.then(() => { if (!failed) location.href = href; });
}
document.addEventListener('click', (e) => {
  const link = e.target.closest?.('a[href]');
  if (!link || e.defaultPrevented || e.ctrlKey || e.metaKey || e.shiftKey || link.target || link.download) return;
  if (!unsaved()) return;
  e.preventDefault();
  leave(link.href);
});
const KEEPALIVE_BYTES = 60_000; // what browsers send for a page that is gone
window.addEventListener('pagehide', () => {
  if (running === null && queued < 2) return;
  clearTimeout(running);
  running = null;
  const body = new URLSearchParams({
    revision: frame.revision + Math.min(queued, 1), station: station(), page: page(), anew: false,
    values: JSON.stringify(frame.values), masks: masksToSend(),
  });
  const keepalive = body.toString().length < KEEPALIVE_BYTES;
  fetch(`/frames/${frame.id}/development`, { method: 'POST', body, keepalive });
});

function changed(id, value, own, moving) {
  if (id.startsWith('mask.')) { masks.set(id, value, moving); return; }
  // what a local adjustment does is not seen under the mask's own colour
  if (id.startsWith('scene.local.') && masks.overlay) masks.showOverlay(false);
  if (own) delete frame.values[id];
  else frame.values[id] = value;
  view.setValues({ ...frame.values }, id, moving !== false);
  if (/^(film\.(curve|push)|bath)/.test(id)) redrawChart();
  if (moving === false) commit();
  if (moving === 'key') keepSoon();
}

listen(document, changed);
listenCurves(document, changed, (text) => say(text));

// the film chart follows a moving curve: one request at a time, the newest values
const CHART_PAUSE_MS = 250;
let chartWanted = false, chartBusy = false;
async function redrawChart() {
  chartWanted = true;
  if (chartBusy) return;
  chartBusy = true;
  while (chartWanted) {
    chartWanted = false;
    const answer = await fetch(`/frames/${frame.id}/chart`, {
      method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ values: frame.values }),
    }).catch(() => null);
    // a handle in hand must not be swapped away
    if (answer?.ok && !handle) $('ag-chart').innerHTML = await answer.text();
    // the picture comes first
    await new Promise((go) => setTimeout(go, CHART_PAUSE_MS));
  }
  chartBusy = false;
}

// handles on the film chart: toe and shoulder sideways, contrast up and down
let handle = null;
document.addEventListener('pointerdown', (e) => {
  const knot = e.target.closest?.('[data-handle]');
  if (!knot || e.button !== 0) return;
  e.preventDefault();
  knot.setPointerCapture(e.pointerId);
  const box = $('ag-chart').getBoundingClientRect();
  handle = { knot, x: e.clientX, y: e.clientY, scale: 200 / box.width, from: +knot.dataset.value, value: +knot.dataset.value,
    cx: +knot.getAttribute('cx'), cy: +knot.getAttribute('cy') };
});
document.addEventListener('pointermove', (e) => {
  if (!handle) return;
  const { knot, scale } = handle;
  const { axis, per, low, high, step, own, handle: id } = knot.dataset;
  const way = axis === 'x' ? (e.clientX - handle.x) * scale : (handle.y - e.clientY) * scale;
  const raw = handle.from + way * +per * (e.shiftKey ? 0.1 : 1);
  const v = Number((Math.round(Math.min(+high, Math.max(+low, raw)) / +step) * +step).toFixed(6));
  knot.setAttribute(axis === 'x' ? 'cx' : 'cy', axis === 'x' ? handle.cx + way : handle.cy - way);
  if (v === handle.value) return;
  handle.value = v;
  show(id, v);
  changed(id, v, v === +own, true);
});
const letGo = () => {
  if (!handle) return;
  const { knot, value, from } = handle;
  handle = null;
  if (value !== from) changed(knot.dataset.handle, value, value === +knot.dataset.own, false);
  else redrawChart();
};
// Escape in the middle of a drag gives the value back
document.addEventListener('keydown', (e) => {
  if (e.key !== 'Escape' || !handle) return;
  const { knot, from } = handle;
  handle = null;
  show(knot.dataset.handle, from);
  changed(knot.dataset.handle, from, from === +knot.dataset.own, true);
  redrawChart();
  e.stopImmediatePropagation();
}, { capture: true });
document.addEventListener('pointerup', letGo);
document.addEventListener('pointercancel', letGo);

// which layer's handles are shown: that of the open tab
const showLayer = (name) => { app.dataset.layer = (name || 'red').toLowerCase(); };
showLayer('red');

// ---- several values at once

function take(values, moving) {
  for (const [id, v] of Object.entries(values)) {
    const own = ownOf(id);
    if (v === undefined) { show(id, own); delete frame.values[id]; continue; }
    if (typeof v === 'number') show(id, v);
    if (v === own) delete frame.values[id];
    else frame.values[id] = v;
  }
  view.setValues({ ...frame.values }, Object.keys(values)[0] ?? '', moving !== false);
  if (moving === false) commit();
  if (moving === 'key') keepSoon();
}

// a stock's own value where the bench shows the control; what acts on a place of the picture is 0 otherwise, and the
// application drops what equals the own value
function ownOf(id) {
  const shown = document.querySelector(`.ag-ctl[data-control="${CSS.escape(id)}"], [data-zone="${CSS.escape(id)}"]`);
  return shown ? Number(shown.dataset.own) : id === 'lens.crop.size' ? 100 : 0;
}

const tell = (text) => { $('ag-tag').hidden = !text; $('ag-tag').textContent = text; };
const complain = (text) => say(text, { problem: true });

picker = new Picker(frame, $('ag-canvas'), view, {
  values: () => frame.values,
  moved: (values) => take(values, true),
  rested: (values, how = false) => take(values, how),
  tell,
  complain,
});

masks = new Masks({
  frame,
  canvas: $('ag-canvas'),
  view,
  moved: (settled = false) => {
    view.masks = masksChanged() ? frame.masks : undefined;
    view.setValues({ ...frame.values }, '', !settled);
  },
  rested: (anew) => { view.request('settled'); return commit(anew); },
  soon: keepSoon,
  bring: (name) => bringBench(name, 1, false),
  busy: () => queued > 1 || masksChanged(),
  adopt: (kept) => {
    frame.masks = kept;
    keptMasks = sentMasks = written(kept);
    view.masks = undefined;
  },
  tell,
  complain,
  say,
  show,
});

tone = new Tone({ frame, values: () => view.values, changed: take, step: () => commit(true), complain });

zones = new Zones({ frame, values: () => view.values, changed: take });

// a click on the picture lights the patch of its tone
let pressed = null;
$('ag-canvas').addEventListener('pointerdown', (e) => { pressed = [e.clientX, e.clientY]; });
$('ag-canvas').addEventListener('pointerup', (e) => {
  const still = pressed && Math.hypot(e.clientX - pressed[0], e.clientY - pressed[1]) < 3;
  pressed = null;
  const stops = still ? meter.stopsUnderPointer() : null;
  if (stops !== null) zones.light(stops);
});

const metering = new Metering({
  frame,
  values: () => frame.values,
  look: (values) => view.setValues({ ...frame.values, ...values }, '', false),
  take: (values) => {
    Object.assign(frame.values, values);
    commit(true);
  },
  leave: () => bringBench('scene', 1, true),
  tell,
  complain,
});

document.body.addEventListener('ag:frame', (e) => {
  const { revision, values, stock, anew, message } = e.detail;
  frame.revision = revision;
  // what was done since then is on its way: an older answer must not undo it
  const takes = anew && queued <= 1;
  const drawn = !anew && !same(sentMasks, keptMasks);
  keptMasks = sentMasks;
  if (drawn && !masksChanged()) {
    // the application has them now: they need not be sent again, and readings can follow
    view.masks = undefined;
    meter.load(view.values);
  }
  if (takes) {
    frame.values = values;
    if (!masksChanged()) view.masks = undefined;
    view.setValues({ ...values }, '', false);
  }
  const changedStock = stock !== frame.stock;
  frame.stock = stock;
  if (message) say(message, changedStock && anew ? { action: { label: 'Undo', run: () => post('step', { step: 'undo' }) } } : {});
});

document.body.addEventListener('htmx:responseError', (e) => {
  failed = true;
  const { status, responseText } = e.detail.xhr;
  const reload = { label: 'Reload', run: () => location.reload() };
  say(responseText || 'That did not work.', { problem: true, action: status === 409 && /elsewhere/.test(responseText) ? reload : undefined });
});
document.body.addEventListener('htmx:sendError', () => {
  failed = true;
  say('The application does not answer. Is it still running?', { problem: true });
});

// after a swap the same control keeps the focus
let focused = null;
document.body.addEventListener('htmx:oobBeforeSwap', () => { focused = document.activeElement?.id || focused; });
document.body.addEventListener('htmx:oobAfterSwap', () => {
  paintAll();
  paintCurves();
  restoreTabs();
  if (focused && document.activeElement === document.body) $(focused)?.focus({ focusVisible: true });
});
document.body.addEventListener('htmx:afterSettle', () => { focused = null; });

// ---- tabs within a column, remembered by the column's name

const openTabs = new Map();
function openTab(group, name) {
  openTabs.set(group.dataset.group, name);
  group.querySelectorAll('[data-tab]').forEach((t) => {
    const on = t.dataset.tab === name;
    t.setAttribute('aria-selected', on);
    t.tabIndex = on ? 0 : -1;
  });
  group.querySelectorAll('[data-tabpage]').forEach((p) => { p.hidden = p.dataset.tabpage !== name; });
  if (group.dataset.group === 'Curve') showLayer(name);
  view.draw();
}
function restoreTabs() {
  document.querySelectorAll('[data-group]').forEach((group) => {
    const name = openTabs.get(group.dataset.group);
    if (name !== undefined && group.querySelector(`[data-tab="${name}"]`)) openTab(group, name);
  });
  document.querySelectorAll('[data-alone]').forEach((b) => b.setAttribute('aria-pressed', view.shown === b.dataset.alone));
  picker.mark();
  masks.mark();
  tone.paint();
  zones.paint();
  if (zones.box && !zones.box.dataset.loaded) zones.load();
  loadSpreads(frame.id, view.values);
}

// ---- stations

function openStation(id, byKey, number = 1) {
  const open = id === station().split(':')[0] && +page() === number;
  if (open && !app.classList.contains('ag-closed')) {
    app.classList.add('ag-closed');
    return;
  }
  app.classList.remove('ag-closed');
  if (open) return;
  bringBench(id, number, byKey);
}

function bringBench(id, number, byKey) {
  flush();
  // what waits to be kept comes first, so that the bench shows it
  committing.then(() => htmx.ajax('GET', `/frames/${frame.id}/bench?station=${encodeURIComponent(id)}&page=${number}`, { source: document.body, swap: 'none' })).then(() => {
    history.replaceState(null, '', `?station=${encodeURIComponent(id)}&page=${number}`);
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
  const turn = e.target.closest('button[data-page]');
  if (turn && +turn.dataset.page !== +page()) openStation(station(), true, +turn.dataset.page);
  const tab = e.target.closest('[data-tab]');
  if (tab) openTab(tab.closest('[data-group]'), tab.dataset.tab);
  const alone = e.target.closest('[data-alone]');
  if (alone) showAlone(alone.dataset.alone);
  const pick = e.target.closest('[data-pick]');
  if (pick) picker.toggle(pick.dataset.pick);
  if (e.target.closest('[data-meter]')) metering.open();
  if (e.target.closest('#ag-marks')) meter.mark(!meter.marking);
  const back = e.target.closest('[data-return]');
  if (back) returned([back.dataset.return]);
  if (e.target.closest('[data-return-all]')) returned(Object.keys(frame.values));
  const step = e.target.closest('[data-step]');
  if (step && step.matches('button')) post('step', { step: step.dataset.step });
  const surround = e.target.closest('[data-surround]');
  if (surround && surround.matches('button')) setSurround(surround.dataset.surround);
});

document.addEventListener('keydown', (e) => {
  const tab = e.target.closest?.('[data-tab]');
  if (!tab || !['ArrowLeft', 'ArrowRight'].includes(e.key)) return;
  const all = [...tab.parentElement.children];
  const next = all[(all.indexOf(tab) + (e.key === 'ArrowRight' ? 1 : all.length - 1)) % all.length];
  openTab(tab.closest('[data-group]'), next.dataset.tab);
  next.focus();
  e.preventDefault();
});

// values back to the stock's own, as one step
function returned(ids) {
  for (const id of ids) delete frame.values[id];
  view.setValues({ ...frame.values }, '', false);
  commit(true);
}

// one effect by itself, until the button is pressed again
const ALONE = { bloom: 'Bloom alone: the light that it lays over the scene', halation: 'Halation alone: the light that the base throws back', grain: 'Grain alone, on mid grey' };
function showAlone(what) {
  const on = view.shown !== what;
  view.show(on ? what : 'developed');
  $('ag-tag').hidden = !on;
  $('ag-tag').textContent = on ? ALONE[what] : '';
  restoreTabs();
}

function setSurround(name) {
  document.documentElement.dataset.surround = name;
  localStorage.setItem('ag-surround', name);
  document.querySelectorAll('.ag-swatches button').forEach((b) => b.setAttribute('aria-pressed', b.dataset.surround === name));
}
setSurround(localStorage.getItem('ag-surround') ?? 'mid');

// ---- compare and zoom

const hold = (on) => {
  view.show(on ? 'original' : 'developed');
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
const dialogOpen = () => document.querySelector('.modal.show') !== null;
const STATIONS = { Digit1: 'scene', Digit2: 'lens', Digit3: 'film', Digit4: 'bath', Digit5: 'print', Digit6: 'tone', Digit7: 'years', Digit0: 'changes' };

document.addEventListener('keydown', (e) => {
  if (isTyping(e) || dialogOpen()) return;
  if (e.shiftKey && e.code === 'Backspace') {
    const at = (id) => id.startsWith(`${station()}.`);
    returned(Object.keys(frame.values).filter(at));
    e.preventDefault();
    return;
  }
  if ((e.ctrlKey || e.metaKey) && e.code === 'KeyZ') {
    e.preventDefault();
    const step = e.shiftKey ? 'redo' : 'undo';
    // a run of keys that is still to be kept is what is undone
    if (running !== null) post('step', { step });
    else $('ag-undo').querySelector(`[data-step=${step}]:not([disabled])`)?.click();
    return;
  }
  if (e.ctrlKey || e.metaKey || e.altKey) return;
  if (STATIONS[e.code] && !e.shiftKey) { openStation(STATIONS[e.code], true); return; }
  const act = {
    KeyO: () => { if (!e.repeat) hold(true); },
    KeyF: () => view.fit(),
    KeyS: () => leave(`/frames/${frame.id}/stocks`),
    KeyX: () => meter.mark(!meter.marking),
    KeyH: () => picker.toggle(station() === 'scene' ? 'band' : 'hue'),
    KeyN: () => picker.toggle('neutral'),
    KeyC: () => { if (document.querySelector('[data-pick=crop]')) picker.toggle('crop'); },
    KeyA: () => { if (document.querySelector('[data-pick=level]')) picker.toggle('level'); },
    KeyP: () => { if (document.querySelector('[data-pick=place]')) picker.toggle('place'); },
    KeyI: () => metering.open(),
    KeyW: () => openStation('masks', true),
    KeyQ: () => { if (masks.on) masks.showOverlay(!masks.overlay); },
    BracketLeft: () => masks.bracket(-1),
    BracketRight: () => masks.bracket(1),
    Escape: () => {
      if (picker.on) picker.toggle(picker.tool);
      if (metering.bench) metering.act('leave');
      if (view.shown in ALONE) showAlone(view.shown);
    },
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
  const control = e.target.closest?.('[data-control]');
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

// ---- keep as a stock of one's own

$('ag-keep').addEventListener('shown.bs.modal', () => $('ag-keep-name').focus());
$('ag-keep-form').addEventListener('submit', (e) => {
  e.preventDefault();
  const form = new FormData(e.target);
  post('keep', Object.fromEntries(form)).then(() => bootstrap.Modal.getInstance($('ag-keep'))?.hide());
});

// ---- what another page left to be said

const left = sessionStorage.getItem('ag-said');
if (left) {
  sessionStorage.removeItem('ag-said');
  say(left, { action: { label: 'Undo', run: () => post('step', { step: 'undo' }) } });
}

paintAll();
paintCurves();

masks.mark();
tone.paint();
