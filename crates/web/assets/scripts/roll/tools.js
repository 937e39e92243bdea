// Which frames lie on the sheet and how large: asked of the application, kept with the roll until the window is closed.
import { ask } from '../page/ask.js';

const FIND_MS = 200;
const COLUMNS = 'ag-columns';

export class Tools {
  constructor(roll, sheet, selection, state) {
    Object.assign(this, { roll, sheet, selection });
    this.state = state;
    this.key = `ag-sheet-${roll}`;
    this.fields = [...document.querySelectorAll('[data-ask]')];
    this.size = document.getElementById('ag-size');
    this.fields.forEach((field) =>
      field.addEventListener(field.tagName === 'SELECT' ? 'change' : 'input', () => this.askSoon()),
    );
    this.size.addEventListener('input', () => this.strip(+this.size.value));
    selection.told.push(() => this.count());
    sheet.scroll.addEventListener('scroll', () => this.keep(), { passive: true });
    window.addEventListener('pagehide', () => this.keep());
  }

  get query() {
    const given = this.fields.filter((field) => field.value.trim() !== '');
    return new URLSearchParams(given.map((field) => [field.dataset.ask, field.value.trim()])).toString();
  }

  get narrowed() {
    return this.fields.some((field) => field.value.trim() !== '' && field.dataset.ask !== 'order');
  }

  // as the sheet was when one left it
  async begin() {
    this.strip(+(localStorage.getItem(COLUMNS) ?? 6));
    const kept = JSON.parse(sessionStorage.getItem(this.key) ?? '{}');
    const asked = new URLSearchParams(location.search.slice(1) || (kept.query ?? ''));
    this.fields.forEach((field) => {
      field.value = asked.get(field.dataset.ask) ?? '';
      if (field.value === '' && field.tagName === 'SELECT') field.selectedIndex = 0;
    });
    if (this.query && this.query !== location.search.slice(1)) await this.ask();
    else this.take(this.state);
    this.sheet.scroll.scrollTop = kept.top ?? 0;
    const { sheet } = this;
    const at = kept.current && sheet.place(kept.current) >= 0 ? kept.current : (sheet.ids[0] ?? null);
    sheet.look(at, { reveal: kept.current !== undefined });
    sheet.list.focus({ preventScroll: true });
    this.begun = true;
    this.count();
  }

  keep() {
    if (!this.begun) return;
    const { sheet } = this;
    const kept = { query: this.query, top: sheet.scroll.scrollTop, current: sheet.current };
    sessionStorage.setItem(this.key, JSON.stringify(kept));
    sessionStorage.setItem(`ag-order-${this.roll}`, JSON.stringify(sheet.ids));
  }

  askSoon() {
    clearTimeout(this.soon);
    this.soon = setTimeout(() => this.ask(), FIND_MS);
  }

  async ask() {
    const answer = await ask(`/rolls/${this.roll}/order?${this.query}`, { method: 'GET' });
    if (!answer) return;
    this.take(await answer.json());
    const { sheet } = this;
    sheet.scroll.scrollTop = 0;
    if (sheet.place(sheet.current) < 0) sheet.look(sheet.ids[0] ?? null);
    this.keep();
  }

  take(state) {
    this.state = state;
    this.sheet.order(state.ids);
    const gone = [...this.selection.ids].filter((id) => this.sheet.place(id) < 0);
    this.selection.drop(gone);
    this.count();
    for (const link of document.querySelectorAll('[data-print]')) {
      link.href = `/rolls/${this.roll}/print?${new URLSearchParams({ form: link.dataset.print })}&${this.query}`;
    }
  }

  count() {
    const { ids, all } = this.state;
    const words = `${all} frame${all === 1 ? '' : 's'}`;
    document.getElementById('ag-count').textContent = this.narrowed ? `${ids.length} of ${words}` : words;
    document.getElementById('ag-empty').hidden = all > 0;
    document.getElementById('ag-none').hidden = all === 0 || ids.length > 0;
  }

  added(id) {
    this.take({ ids: [...this.state.ids, id], all: this.state.all + 1 });
    if (this.sheet.current === null) this.sheet.look(id);
  }

  removed(ids) {
    const gone = new Set(ids);
    const place = this.sheet.place(this.sheet.current);
    this.take({ ids: this.state.ids.filter((id) => !gone.has(id)), all: this.state.all - gone.size });
    if (gone.has(this.sheet.current)) {
      this.sheet.look(this.sheet.ids[Math.min(place, this.sheet.ids.length - 1)] ?? null);
    }
  }

  strip(columns) {
    const within = Math.min(+this.size.max, Math.max(+this.size.min, columns));
    this.size.value = within;
    localStorage.setItem(COLUMNS, within);
    this.sheet.strip(within);
  }
}
