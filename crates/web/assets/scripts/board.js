// The stock board: tiles that fill in the order in which they are seen, a close look, keys.
import { ask } from './page/ask.js';
import { say } from './page/messages.js';
import { fillTiles } from './page/tiles.js';

const page = document.getElementById('ag-board-page');
const frame = page.dataset.frame;
const $ = (id) => document.getElementById(id);
const all = () => [...document.querySelectorAll('[data-tile]')];
const seen = () => all().filter((t) => !t.hidden && !t.closest('.ag-family').hidden);

// ---- filling: a few at a time, top to bottom, so that the close look is never far behind

const started = performance.now();
fillTiles(all(), {
  filled: (filled, count) => {
    $('ag-filled').textContent = filled < count ? `${filled} of ${count}` : '';
    if (filled === count) page.dataset.filled = Math.round(performance.now() - started);
  },
  failed: () => say('Some stocks could not be rendered. Is the application still running?', { problem: true }),
});

// ---- close look

let looked = null,
  asked = null,
  wait;
function look(id, now = false) {
  if (looked === id) return;
  looked = id;
  all().forEach((t) => {
    t.classList.toggle('ag-looked', t.dataset.tile === id);
    t.tabIndex = t.dataset.tile === id ? 0 : -1;
  });
  clearTimeout(wait);
  wait = setTimeout(
    async () => {
      asked?.abort();
      asked = new AbortController();
      const answer = await ask(`/frames/${frame}/stocks/${id}/close`, { method: 'GET', signal: asked.signal });
      const html = await answer?.text();
      if (html !== undefined && looked === id) $('ag-close').innerHTML = html;
    },
    now ? 0 : 120,
  );
}
$('ag-tiles').addEventListener('pointerover', (e) => {
  const t = e.target.closest('[data-tile]');
  if (t) look(t.dataset.tile);
});
$('ag-tiles').addEventListener('focusin', (e) => {
  const t = e.target.closest('[data-tile]');
  if (t) look(t.dataset.tile, true);
});
$('ag-tiles').addEventListener('click', (e) => {
  const t = e.target.closest('[data-tile]');
  if (!t) return;
  t.focus();
  look(t.dataset.tile, true);
});
$('ag-tiles').addEventListener('dblclick', (e) => {
  const t = e.target.closest('[data-tile]');
  if (t) take(t.dataset.tile, false);
});

// ---- taking a stock

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
const back = () => {
  location.href = `/frames/${frame}?station=film`;
};

// ---- pins, names, files

const reload = (id) => {
  sessionStorage.setItem('ag-looked', id ?? '');
  location.reload();
};

async function pin(id) {
  const on = $('ag-close').querySelector(`[data-pin="${id}"]`)?.getAttribute('aria-pressed') !== 'true';
  if (await ask(`/stocks/${id}/pin`, { form: { pinned: on } })) reload(id);
}
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
async function bringIn(file) {
  const answer = await ask('/stocks', { headers: { 'content-type': 'application/json' }, body: file });
  if (answer) reload((await answer.json()).id);
}
$('ag-import').addEventListener('click', () => $('ag-stock-file').click());
$('ag-stock-file').addEventListener('change', (e) => {
  if (e.target.files[0]) bringIn(e.target.files[0]);
  e.target.value = '';
});
page.addEventListener('dragover', (e) => e.preventDefault());
page.addEventListener('drop', (e) => {
  e.preventDefault();
  if (e.dataTransfer.files[0]) bringIn(e.dataTransfer.files[0]);
});

// ---- finding

let family = '';
function find() {
  const words = $('ag-find').value.toLowerCase().split(/\s+/).filter(Boolean);
  for (const section of document.querySelectorAll('.ag-family')) {
    const tiles = [...section.querySelectorAll('[data-tile]')];
    for (const t of tiles)
      t.hidden = !words.every((w) => `${t.dataset.words} ${t.innerText.toLowerCase()}`.includes(w));
    section.hidden = (family !== '' && section.dataset.family !== family) || tiles.every((t) => t.hidden);
  }
  $('ag-none').hidden = seen().length > 0;
}
$('ag-find').addEventListener('input', find);
document.querySelector('.ag-fams').addEventListener('click', (e) => {
  const chip = e.target.closest('.ag-chip');
  if (!chip) return;
  family = chip.dataset.family;
  document.querySelectorAll('.ag-chip').forEach((c) => c.setAttribute('aria-pressed', c === chip));
  find();
});

// ---- keys

function walk(code) {
  const tiles = seen();
  const at = tiles.find((t) => t.dataset.tile === looked) ?? tiles[0];
  if (!at) return;
  const i = tiles.indexOf(at);
  const box = at.getBoundingClientRect();
  const middle = box.left + box.width / 2;
  // up and down: the nearest tile of the next row
  const row = (way) => {
    const others = tiles
      .map((t) => [t, t.getBoundingClientRect()])
      .filter(([, b]) => (way > 0 ? b.top > box.bottom - 4 : b.bottom < box.top + 4));
    if (!others.length) return at;
    const edge = way > 0 ? Math.min(...others.map(([, b]) => b.top)) : Math.max(...others.map(([, b]) => b.top));
    const near = others.filter(([, b]) => Math.abs(b.top - edge) < 8);
    return near.sort(
      (a, b) => Math.abs(a[1].left + a[1].width / 2 - middle) - Math.abs(b[1].left + b[1].width / 2 - middle),
    )[0][0];
  };
  const next = {
    ArrowLeft: () => tiles[Math.max(0, i - 1)],
    ArrowRight: () => tiles[Math.min(tiles.length - 1, i + 1)],
    ArrowUp: () => row(-1),
    ArrowDown: () => row(1),
    Home: () => tiles[0],
    End: () => tiles.at(-1),
  }[code]();
  next.focus();
  next.scrollIntoView({ block: 'nearest' });
}

document.addEventListener('keydown', (e) => {
  const typing = e.target.closest('input, textarea');
  if (e.key === 'Escape') {
    if (typing && typing.value) {
      typing.value = '';
      find();
      typing.blur();
    } else back();
    return;
  }
  if (typing) {
    if (typing.id === 'ag-find' && (e.key === 'Enter' || e.key === 'ArrowDown') && seen()[0]) {
      e.preventDefault();
      seen()[0].focus();
    }
    return;
  }
  if (e.ctrlKey || e.metaKey || e.altKey) return;
  if (/^Arrow|^Home$|^End$/.test(e.code)) {
    e.preventDefault();
    walk(e.code);
    return;
  }
  if (e.key === 'Enter' && looked && !e.target.closest('#ag-close, .ag-bar, .ag-fams')) {
    e.preventDefault();
    take(looked, e.shiftKey);
    return;
  }
  if (e.key === '/') {
    e.preventDefault();
    $('ag-find').focus();
  }
  if (e.code === 'KeyP' && looked) pin(looked);
});

const again = sessionStorage.getItem('ag-looked');
sessionStorage.removeItem('ag-looked');
const first = (again && $(`tile-${again}`)) || $(`tile-${page.dataset.chosen}`) || seen()[0];
first?.focus();
first?.scrollIntoView({ block: 'nearest' });
