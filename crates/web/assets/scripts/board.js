// The stock board.
import { Board, bringsIn, lookedBefore, reload } from './board/board.js';
import { ask } from './page/ask.js';

const $ = (id) => document.getElementById(id);
const page = $('ag-board-page');
const frame = page.dataset.frame;

const back = () => {
  location.href = `/frames/${frame}?station=film`;
};

async function take(id, keep) {
  if (id === page.dataset.chosen && !keep) {
    back();
    return;
  }
  const form = { revision: page.dataset.revision, stock: id, keep };
  const answer = await ask(`/frames/${frame}/stock`, { form });
  if (!answer) return;
  const parts = new DOMParser().parseFromString(await answer.text(), 'text/html');
  sessionStorage.setItem('ag-said', JSON.parse(parts.getElementById('ag-kept').textContent).message);
  back();
}

async function pin(id) {
  const on = $('ag-close').querySelector(`[data-pin="${id}"]`)?.getAttribute('aria-pressed') !== 'true';
  if (await ask(`/stocks/${id}/pin`, { form: { pinned: on } })) reload(id);
}

const board = new Board({ closeOf: (id) => `/frames/${frame}/stocks/${id}/close`, take, pin, back });

$('ag-close').addEventListener('click', async (e) => {
  const taken = e.target.closest('[data-take]');
  if (taken) take(taken.dataset.take, taken.dataset.keep === 'true');
  const pinned = e.target.closest('[data-pin]');
  if (pinned) pin(pinned.dataset.pin);
  const gone = e.target.closest('[data-stock-delete]');
  if (gone && (await ask(`/stocks/${gone.dataset.stockDelete}`, { method: 'DELETE' }))) reload();
});
$('ag-close').addEventListener('submit', async (e) => {
  e.preventDefault();
  const id = e.target.dataset.stockRename;
  if (await ask(`/stocks/${id}`, { form: new FormData(e.target) })) reload(id);
});
bringsIn('ag-import', 'ag-stock-file', async (file) => {
  // a stock's file, or the table of a look, of which one is made
  const isStock = /\.json$/i.test(file.name);
  const name = file.name.replace(/\.[^.]*$/, '');
  const path = isStock ? '/stocks' : `/stocks/of-look?name=${encodeURIComponent(name)}`;
  const type = isStock ? 'application/json' : 'application/octet-stream';
  const answer = await ask(path, { headers: { 'content-type': type }, body: file });
  if (answer) reload((await answer.json()).id);
});
board.begin(lookedBefore() || page.dataset.chosen);
