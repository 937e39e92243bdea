// The contact sheet however long: rows are as high as one another, and only those that are seen, and a few around them,
// are on the page. Cells come from the application a screenful at a time and are kept while they are near.
import { ask } from '../page/ask.js';
import { rowsSeen } from './rows.js';

const AROUND = 2; // rows above and below what is seen
const AT_ONCE = 120; // cells of a request
const MOST_KEPT = 1500;
const GAP = 9; // between strips, as in the style

export class Sheet {
  constructor(list, scroll) {
    Object.assign(this, { list, scroll });
    this.ids = [];
    this.places = new Map();
    this.cells = new Map();
    this.asked = new Set();
    this.columns = 6;
    this.current = null;
    this.written = null; // the frame on which somebody writes: its cell stays as it is
    this.dressed = () => {};
    this.told = () => {}; // that one stands on another frame
    scroll.addEventListener('scroll', () => this.draw(), { passive: true });
    new ResizeObserver(() => this.draw(true)).observe(scroll);
  }

  // ---- which frames, how large

  order(ids) {
    this.ids = ids;
    this.places = new Map(ids.map((id, i) => [id, i]));
    this.draw(true);
  }

  strip(columns) {
    this.columns = columns;
    this.list.style.setProperty('--columns', columns);
    this.draw(true);
    if (this.current !== null) this.reveal(this.current);
  }

  place(id) {
    return this.places.get(id) ?? -1;
  }

  get rowHeight() {
    const cell = this.list.firstElementChild;
    return cell ? cell.offsetHeight + GAP : 0;
  }

  get rows() {
    return Math.ceil(this.ids.length / this.columns);
  }

  // ---- drawing

  draw(anew = false) {
    if (!this.ids.length) {
      this.list.replaceChildren();
      this.list.style.paddingTop = this.list.style.paddingBottom = '0';
      this.drawn = '';
      return;
    }
    if (!this.list.firstElementChild) this.list.append(this.cell(this.ids[0]));
    const height = this.rowHeight;
    const [first, last] = rowsSeen(this.scroll.scrollTop, this.scroll.clientHeight, height, this.rows, AROUND);
    const drawn = `${first} ${last} ${this.columns}`;
    if (!anew && drawn === this.drawn) return;
    this.drawn = drawn;
    this.list.style.paddingTop = `${first * height}px`;
    this.list.style.paddingBottom = `${Math.max(0, this.rows - last) * height}px`;
    const seen = this.ids.slice(first * this.columns, last * this.columns);
    this.show(seen.map((id) => this.cell(id)));
    this.fetch(seen.filter((id) => !this.cells.get(id)?.dataset.frame && !this.asked.has(id)));
    this.forget(seen);
  }

  // puts the cells in their order, moving none that is in its place
  show(cells) {
    const wanted = new Set(cells);
    [...this.list.children].forEach((cell) => wanted.has(cell) || cell.remove());
    cells.forEach((cell, i) => {
      if (this.list.children[i] !== cell) this.list.insertBefore(cell, this.list.children[i] ?? null);
    });
    cells.forEach((cell) => this.dress(cell));
  }

  cell(id) {
    if (!this.cells.has(id)) {
      const blank = document.createElement('div');
      blank.className = 'ag-frame ag-blank';
      blank.id = `frame-${id}`;
      blank.setAttribute('role', 'option');
      blank.setAttribute('aria-label', 'not there yet');
      for (const part of ['ag-edge', 'ag-pict', 'ag-st', 'ag-nt']) {
        const span = document.createElement('span');
        span.className = part;
        blank.append(span);
      }
      this.cells.set(id, blank);
    }
    return this.cells.get(id);
  }

  dress(cell) {
    const id = +cell.id.slice(6);
    cell.setAttribute('aria-posinset', this.place(id) + 1);
    cell.setAttribute('aria-setsize', this.ids.length);
    cell.classList.toggle('ag-current', id === this.current);
    this.dressed(cell, id);
  }

  redress() {
    [...this.list.children].forEach((cell) => this.dress(cell));
  }

  async fetch(ids) {
    if (!ids.length) return;
    const some = ids.slice(0, AT_ONCE);
    some.forEach((id) => this.asked.add(id));
    const answer = await ask(`/cells?ids=${some.join(',')}`, { method: 'GET' });
    some.forEach((id) => this.asked.delete(id));
    if (!answer) return;
    const made = document.createElement('template');
    made.innerHTML = await answer.text();
    for (const cell of [...made.content.children]) {
      const id = +cell.dataset.frame;
      if (id === this.written) continue;
      const old = this.cells.get(id);
      this.cells.set(id, cell);
      if (old?.isConnected) {
        old.replaceWith(cell);
        this.dress(cell);
      }
    }
    this.told();
    this.fetch(ids.slice(AT_ONCE));
  }

  forget(seen) {
    if (this.cells.size <= MOST_KEPT) return;
    const near = new Set(seen);
    for (const id of this.cells.keys()) {
      if (this.cells.size <= MOST_KEPT / 2) break;
      if (!near.has(id)) this.cells.delete(id);
    }
  }

  // cells are made anew; what is seen stays until the new ones are there
  renew(ids) {
    const here = [];
    for (const id of ids) {
      if (this.cells.get(id)?.isConnected) here.push(id);
      else this.cells.delete(id);
    }
    return this.fetch(here);
  }

  // ---- where one is

  look(id, { reveal = true } = {}) {
    this.current = id;
    if (reveal && id !== null) this.reveal(id);
    this.redress();
    this.told();
    if (id === null) this.list.removeAttribute('aria-activedescendant');
    else this.list.setAttribute('aria-activedescendant', `frame-${id}`);
  }

  reveal(id) {
    const row = Math.floor(this.place(id) / this.columns);
    const height = this.rowHeight;
    if (row < 0 || !height) return;
    const { scrollTop, clientHeight } = this.scroll;
    if (row * height < scrollTop) this.scroll.scrollTop = row * height;
    else if ((row + 1) * height > scrollTop + clientHeight) this.scroll.scrollTop = (row + 1) * height - clientHeight;
    this.draw();
  }

  // the frames whose cells a rectangle of the whole sheet touches
  within({ left, top, right, bottom }) {
    const width = this.list.clientWidth / this.columns;
    const height = this.rowHeight;
    const columns = [Math.max(0, Math.floor(left / width)), Math.min(this.columns - 1, Math.floor(right / width))];
    const rows = [Math.max(0, Math.floor(top / height)), Math.min(this.rows - 1, Math.floor(bottom / height))];
    const found = [];
    for (let row = rows[0]; row <= rows[1]; row++)
      for (let column = columns[0]; column <= columns[1]; column++) {
        const id = this.ids[row * this.columns + column];
        if (id !== undefined) found.push(id);
      }
    return found;
  }
}
