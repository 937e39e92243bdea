// What lies on the bench: stations and their pages, and tabs within a column.
const bench = () => document.getElementById('ag-bench');
const app = () => document.getElementById('ag-app');

export const station = () => bench().dataset.station;
export const page = () => bench().dataset.page;

export class Stations {
  // `opened(column, tab)` is told when a tab is opened
  constructor({ frame, store, opened }) {
    Object.assign(this, { frame, store, opened });
    this.tabs = new Map(); // the open tab of a column
    document.addEventListener('click', (e) => this.click(e));
    document.addEventListener('keydown', (e) => this.key(e));
  }

  click(e) {
    const opener = e.target.closest('[data-station]');
    if (opener && opener.id !== 'ag-bench') {
      e.preventDefault();
      this.open(opener.dataset.station, false);
    }
    const turn = e.target.closest('button[data-page]');
    if (turn && +turn.dataset.page !== +page()) this.open(station(), true, +turn.dataset.page);
    const tab = e.target.closest('[data-tab]');
    if (tab) this.openTab(tab.closest('[data-column]'), tab.dataset.tab);
  }

  // a second press on the open station closes the bench
  open(id, byKey, number = 1) {
    const open = id === station().replace(/^surface:.*/, 'surface') && +page() === number;
    const closes = open && !app().classList.contains('ag-closed');
    app().classList.toggle('ag-closed', closes);
    if (!open) this.bring(id, number, byKey);
  }

  // the open station's next page, round to the first
  turn() {
    const pages = bench().querySelectorAll('button[data-page]').length;
    if (pages > 1) this.bring(station(), (+page() % pages) + 1, true);
  }

  bring(id, number, byKey) {
    this.store.flush();
    const asked = `station=${encodeURIComponent(id)}&page=${number}`;
    const swapped = () =>
      htmx.ajax('GET', `/frames/${this.frame.id}/bench?${asked}`, { source: document.body, swap: 'none' });
    // what waits to be kept comes first, so that the bench shows it
    this.store.committing.then(swapped).then(() => {
      history.replaceState(null, '', `?${asked}`);
      if (!byKey) return;
      const find = (what) => bench().querySelector(what);
      const first = find('.ag-tuned .ag-track') ?? find('.ag-track') ?? find('button:not([data-lamp])');
      first?.focus({ focusVisible: true });
    });
  }

  // ---- tabs

  openTab(column, name) {
    this.tabs.set(column.dataset.column, name);
    column.querySelectorAll('[data-tab]').forEach((t) => {
      const on = t.dataset.tab === name;
      t.setAttribute('aria-selected', on);
      t.tabIndex = on ? 0 : -1;
    });
    column.querySelectorAll('[data-tabpage]').forEach((p) => {
      p.hidden = p.dataset.tabpage !== name;
    });
    this.opened(column.dataset.column, name);
  }

  // after a swap the same tabs are open, and the line says which station is
  restore() {
    const open = station().replace(/:.*/, '');
    for (const stop of document.querySelectorAll('#ag-line [data-station]')) {
      if (stop.dataset.station === open) stop.setAttribute('aria-current', 'step');
      else stop.removeAttribute('aria-current');
    }
    document.querySelectorAll('[data-column]').forEach((column) => {
      const name = this.tabs.get(column.dataset.column);
      if (name !== undefined && column.querySelector(`[data-tab="${name}"]`)) this.openTab(column, name);
    });
  }

  key(e) {
    const tab = e.target.closest?.('[data-tab]');
    if (!tab || !['ArrowLeft', 'ArrowRight'].includes(e.key)) return;
    const all = [...tab.parentElement.children];
    const next = all[(all.indexOf(tab) + (e.key === 'ArrowRight' ? 1 : all.length - 1)) % all.length];
    this.openTab(tab.closest('[data-column]'), next.dataset.tab);
    next.focus();
    e.preventDefault();
  }
}
