// The board of sheets: tiles that fill in their order, laid and taken off by a press; pictures brought in.
import { ask } from './page/ask.js';
import { say } from './page/messages.js';
import { fillTiles } from './page/tiles.js';

const page = document.getElementById('ag-sheet-board');
const { frame } = page.dataset;
const $ = (id) => document.getElementById(id);
const tiles = () => [...document.querySelectorAll('[data-sheet-kind]')];

fillTiles(tiles(), {
  failed: () => say('Some sheets could not be rendered. Is the application still running?', { problem: true }),
});

// ---- laying

let laying = Promise.resolve(); // one at a time: each answer brings the revision that the next one needs

async function lay(tile) {
  const on = tile.getAttribute('aria-pressed') !== 'true';
  const form = { revision: page.dataset.revision, kind: tile.dataset.sheetKind, on };
  const answer = await ask(`/frames/${frame}/sheets`, { form });
  if (!answer) return;
  const { revision, letters, onIt } = await answer.json();
  page.dataset.revision = revision;
  $('ag-onit').textContent = onIt;
  for (const t of tiles()) {
    const own = letters.filter(([kind]) => kind === t.dataset.sheetKind).map(([, letter]) => letter);
    t.setAttribute('aria-pressed', own.length > 0);
    t.querySelector('.ag-letters').replaceChildren(
      ...own.map((letter) =>
        Object.assign(document.createElement('b'), { className: 'ag-letter num', textContent: letter }),
      ),
    );
  }
}

$('ag-tiles').addEventListener('click', (e) => {
  const tile = e.target.closest('[data-sheet-kind]');
  if (tile) laying = laying.then(() => lay(tile));
  if (e.target.closest('[data-bring]')) $('ag-picture-file').click();
});

// ---- pictures of one's own

async function bringIn(files) {
  for (const file of files) {
    const body = new FormData();
    body.append('file', file);
    if (!(await ask('/pictures', { body }))) return;
  }
  location.reload();
}

$('ag-bring').addEventListener('click', () => $('ag-picture-file').click());
$('ag-picture-file').addEventListener('change', (e) => {
  if (e.target.files.length) bringIn([...e.target.files]);
  e.target.value = '';
});
page.addEventListener('dragover', (e) => e.preventDefault());
page.addEventListener('drop', (e) => {
  e.preventDefault();
  if (e.dataTransfer.files.length) bringIn([...e.dataTransfer.files]);
});

page.addEventListener('change', async (e) => {
  const field = e.target.closest('[data-picture-name]');
  if (!field) return;
  const answer = await ask(`/pictures/${field.dataset.pictureName}`, { form: { name: field.value } });
  if (answer) field.closest('div:not(.ag-owntools)').querySelector('.ag-l1 b').textContent = field.value.trim();
});
page.addEventListener('click', async (e) => {
  const button = e.target.closest('[data-picture-delete]');
  if (button && (await ask(`/pictures/${button.dataset.pictureDelete}`, { method: 'DELETE' }))) location.reload();
});

document.addEventListener('keydown', (e) => {
  if (e.key !== 'Escape') return;
  if (e.target.matches('input')) e.target.blur();
  else laying.then(() => $('ag-back').click());
});
