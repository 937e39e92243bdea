// A board of tiles on this very picture: they fill in the order in which they are seen, one is looked at closely, keys
// walk, words and families narrow.
import { ask } from '../page/ask.js';
import { say } from '../page/messages.js';
import { fillTiles } from '../page/tiles.js';

const $ = (id) => document.getElementById(id);
const LOOK_MS = 120;

export class Board {
  // `closeOf(id)` is the address of the close look; `take(id, keep)`, `pin(id)`, `back()` are what keys do
  constructor({ closeOf, take, pin, back, looked = () => {} }) {
    Object.assign(this, { closeOf, take, pin, back, looked });
    this.page = $('ag-board-page');
    this.at = null;
    this.family = '';
    const started = performance.now();
    fillTiles(this.all, {
      filled: (filled, count) => {
        $('ag-filled').textContent = filled < count ? `${filled} of ${count}` : '';
        if (filled === count) this.page.dataset.filled = Math.round(performance.now() - started);
      },
      failed: () => say('Some could not be rendered. Is the application still running?', { problem: true }),
    });
    this.listen();
  }

  get all() {
    return [...document.querySelectorAll('[data-tile]')];
  }

  get seen() {
    return this.all.filter((t) => !t.hidden && !t.closest('.ag-family').hidden);
  }

  begin(id) {
    const first = (id && $(`tile-${id}`)) || this.seen[0];
    first?.focus();
    first?.scrollIntoView({ block: 'nearest' });
    if (first) this.look(first.dataset.tile, true);
  }

  // ---- close look

  look(id, now = false) {
    if (this.at === id) return;
    this.at = id;
    this.all.forEach((t) => {
      t.classList.toggle('ag-looked', t.dataset.tile === id);
      t.tabIndex = t.dataset.tile === id ? 0 : -1;
    });
    clearTimeout(this.wait);
    this.wait = setTimeout(() => this.fetch(id), now ? 0 : LOOK_MS);
  }

  async fetch(id = this.at) {
    this.asked?.abort();
    this.asked = new AbortController();
    const answer = await ask(this.closeOf(id), { method: 'GET', signal: this.asked.signal });
    const html = await answer?.text();
    if (html === undefined || this.at !== id) return;
    $('ag-close').innerHTML = html;
    this.looked(id);
  }

  listen() {
    const tiles = $('ag-tiles');
    const tile = (e) => e.target.closest('[data-tile]');
    tiles.addEventListener('pointerover', (e) => tile(e) && this.look(tile(e).dataset.tile));
    tiles.addEventListener('focusin', (e) => tile(e) && this.look(tile(e).dataset.tile, true));
    tiles.addEventListener('click', (e) => {
      tile(e)?.focus();
      if (tile(e)) this.look(tile(e).dataset.tile, true);
    });
    tiles.addEventListener('dblclick', (e) => tile(e) && this.take(tile(e).dataset.tile, false));
    $('ag-find').addEventListener('input', () => this.find());
    document.querySelector('.ag-fams').addEventListener('click', (e) => {
      const chip = e.target.closest('.ag-chip');
      if (!chip) return;
      this.family = chip.dataset.family;
      document.querySelectorAll('.ag-chip').forEach((c) => c.setAttribute('aria-pressed', c === chip));
      this.find();
    });
    document.addEventListener('keydown', (e) => this.key(e));
  }

  // ---- finding

  find() {
    const words = $('ag-find').value.toLowerCase().split(/\s+/).filter(Boolean);
    for (const section of document.querySelectorAll('.ag-family')) {
      const tiles = [...section.querySelectorAll('[data-tile]')];
      for (const t of tiles)
        t.hidden = !words.every((w) => `${t.dataset.words} ${t.innerText.toLowerCase()}`.includes(w));
      section.hidden = (this.family !== '' && section.dataset.family !== this.family) || tiles.every((t) => t.hidden);
    }
    $('ag-none').hidden = this.seen.length > 0;
  }

  // ---- keys

  walk(code) {
    const tiles = this.seen;
    const at = tiles.find((t) => t.dataset.tile === this.at) ?? tiles[0];
    if (!at) return;
    const i = tiles.indexOf(at);
    const next = {
      ArrowLeft: () => tiles[Math.max(0, i - 1)],
      ArrowRight: () => tiles[Math.min(tiles.length - 1, i + 1)],
      ArrowUp: () => nearest(tiles, at, -1),
      ArrowDown: () => nearest(tiles, at, 1),
      Home: () => tiles[0],
      End: () => tiles.at(-1),
    }[code]();
    next.focus();
    next.scrollIntoView({ block: 'nearest' });
  }

  key(e) {
    if (document.querySelector('.modal.show')) return;
    const typing = e.target.closest('input, textarea');
    if (e.key === 'Escape') this.escape(typing);
    else if (typing) this.typed(e, typing);
    else if (e.ctrlKey || e.metaKey || e.altKey) return;
    else if (/^Arrow|^Home$|^End$/.test(e.code)) {
      e.preventDefault();
      this.walk(e.code);
    } else if (e.key === 'Enter' && this.at && !e.target.closest('#ag-close, .ag-bar, .ag-fams')) {
      e.preventDefault();
      this.take(this.at, e.shiftKey);
    } else if (e.key === '/') {
      e.preventDefault();
      $('ag-find').focus();
    } else if (e.code === 'KeyP' && this.at) this.pin(this.at);
  }

  escape(typing) {
    if (typing?.id === 'ag-find' && typing.value) {
      typing.value = '';
      this.find();
      typing.blur();
    } else this.back();
  }

  typed(e, typing) {
    if (typing.id === 'ag-find' && (e.key === 'Enter' || e.key === 'ArrowDown') && this.seen[0]) {
      e.preventDefault();
      this.seen[0].focus();
    }
  }
}

// up and down: the nearest tile of the next row
function nearest(tiles, at, way) {
  const box = at.getBoundingClientRect();
  const middle = box.left + box.width / 2;
  const others = tiles
    .map((t) => [t, t.getBoundingClientRect()])
    .filter(([, b]) => (way > 0 ? b.top > box.bottom - 4 : b.bottom < box.top + 4));
  if (!others.length) return at;
  const edge = way > 0 ? Math.min(...others.map(([, b]) => b.top)) : Math.max(...others.map(([, b]) => b.top));
  const far = (b) => Math.abs(b.left + b.width / 2 - middle);
  return others.filter(([, b]) => Math.abs(b.top - edge) < 8).sort((a, b) => far(a[1]) - far(b[1]))[0][0];
}

// the page anew, with the same one looked at
export function reload(id) {
  sessionStorage.setItem('ag-looked', id ?? '');
  location.reload();
}

export function lookedBefore() {
  const again = sessionStorage.getItem('ag-looked');
  sessionStorage.removeItem('ag-looked');
  return again;
}

// a file that is chosen or dropped
export function bringsIn(button, input, bringIn) {
  $(button).addEventListener('click', () => $(input).click());
  $(input).addEventListener('change', (e) => {
    if (e.target.files[0]) bringIn(e.target.files[0]);
    e.target.value = '';
  });
  const page = $('ag-board-page');
  page.addEventListener('dragover', (e) => e.preventDefault());
  page.addEventListener('drop', (e) => {
    e.preventDefault();
    if (e.dataTransfer.files[0]) bringIn(e.dataTransfer.files[0]);
  });
}
