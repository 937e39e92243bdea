// The board of presets: each laid on this picture; laid on it, or on all the frames that are chosen on its roll.
import { Board, bringsIn, lookedBefore, reload } from './board/board.js';
import { ask } from './page/ask.js';
import { listenToPreset } from './page/keep-preset.js';
import { say } from './page/messages.js';
import { chosen } from './roll/selection.js';

const $ = (id) => document.getElementById(id);
const page = $('ag-board-page');
const frame = +page.dataset.frame;
const roll = +page.dataset.roll;
const picked = chosen();
const many = picked.roll === roll && picked.ids.length > 1 && picked.ids.includes(frame) ? picked.ids : null;
let strength = 100;

const back = () => {
  location.href = many ? `/rolls/${roll}` : `/frames/${frame}`;
};

async function take(id) {
  const frames = many ?? [frame];
  const answer = await ask('/selection/preset', { json: { frames, preset: id, strength } });
  if (!answer) return;
  const { message, batch } = await answer.json();
  if (many) sessionStorage.setItem('ag-done', JSON.stringify({ message, batch }));
  else sessionStorage.setItem('ag-said', message);
  back();
}

async function pin(id) {
  const on = $('ag-close').querySelector(`[data-pin="${id}"]`)?.getAttribute('aria-pressed') !== 'true';
  if (await ask(`/presets/${id}/pin`, { form: { pinned: on } })) reload(id);
}

const board = new Board({
  closeOf: (id) => `/frames/${frame}/presets/${id}/close?strength=${strength}`,
  take,
  pin,
  back,
  looked: () => {
    const button = $('ag-take');
    if (many) button.firstElementChild.textContent = `Lay on ${many.length} chosen frames`;
  },
});

// strength: the number at once, the picture when the hand rests
let wait;
function setStrength(value) {
  strength = Math.min(100, Math.max(0, Math.round(value)));
  $('ag-strength').value = $('ag-strength-number').value = strength;
  clearTimeout(wait);
  wait = setTimeout(() => {
    const picture = $('ag-close').querySelector('img');
    const next = new Image();
    next.addEventListener('load', () => {
      picture.src = next.src;
    });
    next.src = `/frames/${frame}/presets/${board.at}?close=true&strength=${strength}`;
  }, 120);
}
$('ag-close').addEventListener('input', (e) => {
  if (e.target.id === 'ag-strength') setStrength(+e.target.value);
});
$('ag-close').addEventListener('change', (e) => {
  if (e.target.id === 'ag-strength-number') setStrength(+e.target.value || 0);
});

$('ag-close').addEventListener('click', async (e) => {
  const near = (what) => e.target.closest(`[data-${what}]`);
  if (near('take')) take(board.at);
  if (near('pin')) pin(board.at);
  if (near('update')) show(board.at);
  if (near('preset-delete')) remove(board.at);
});
$('ag-close').addEventListener('submit', async (e) => {
  e.preventDefault();
  if (await ask(`/presets/${board.at}`, { form: new FormData(e.target) })) reload(board.at);
});

async function remove(id) {
  const name = $(`tile-${id}`).querySelector('b').textContent;
  if (!(await ask(`/presets/${id}`, { method: 'DELETE' }))) return;
  sessionStorage.setItem('ag-deleted', JSON.stringify({ id, name }));
  reload();
}

// what an update from this frame would change, before it does
async function show(id) {
  const answer = await ask(`/presets/${id}/changes/${frame}`, { method: 'GET' });
  if (!answer) return;
  $('ag-update-changes').innerHTML = await answer.text();
  $('ag-update').dataset.preset = id;
  bootstrap.Modal.getOrCreateInstance($('ag-update')).show();
}
$('ag-update-go').addEventListener('click', async () => {
  const id = $('ag-update').dataset.preset;
  if (await ask(`/presets/${id}/changes/${frame}`)) reload(id);
});

listenToPreset(frame, { kept: ({ id }) => reload(id) });
bringsIn('ag-import', 'ag-preset-file', async (file) => {
  const answer = await ask('/presets', { headers: { 'content-type': 'application/json' }, body: file });
  if (!answer) return;
  const { ids } = await answer.json();
  reload(ids[0]);
});

board.begin(lookedBefore() || page.dataset.chosen);
const deleted = JSON.parse(sessionStorage.getItem('ag-deleted') ?? 'null');
sessionStorage.removeItem('ag-deleted');
if (deleted) {
  const restore = async () => {
    if (await ask(`/presets/${deleted.id}/restore`)) reload(deleted.id);
  };
  say(`${deleted.name} is deleted.`, { action: { label: 'Undo', run: restore } });
}
