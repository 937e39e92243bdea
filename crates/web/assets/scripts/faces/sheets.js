// Surface on the bench: the list of sheets, their order, and what is done to the chosen one.
const SHEET = /^surface\.sheet\.(\d+)\./;
const SEEDS = 10_000;
const HALF = 50; // strength of the brush that takes a sheet off a face

export class Sheets {
  // `step()` keeps what was done to the values as one step; `bring(name)` opens something on the bench
  constructor({ frame, masks, step, bring, look }) {
    Object.assign(this, { frame, masks, step, bring, look });
    document.addEventListener('click', (e) => this.click(e));
    document.addEventListener('keydown', (e) => this.key(e));
    document.addEventListener('pointerdown', (e) => this.press(e));
    document.addEventListener('pointermove', (e) => this.drag(e));
    document.addEventListener('pointerup', () => this.release());
  }

  // the key of the sheet whose controls lie on the bench
  get chosen() {
    const { station, page } = document.getElementById('ag-bench')?.dataset ?? {};
    return (page === '1' && /^surface:(\d+)$/.exec(station ?? '')?.[1]) || null;
  }

  get values() {
    return this.frame.values;
  }

  rows() {
    return [...document.querySelectorAll('[data-sheet]')];
  }

  click(e) {
    const at = (name) => e.target.closest?.(`[data-sheet-${name}]`);
    let b;
    if ((b = at('pick'))) this.bring(`surface:${b.dataset.sheetPick}`);
    else if ((b = at('lamp'))) this.lamp(b.dataset.sheetLamp);
    else if ((b = at('drop'))) this.drop(b.dataset.sheetDrop);
    else if ((b = at('again'))) this.again(b.dataset.sheetAgain);
    else if ((b = at('brush'))) this.brush(b.dataset.sheetBrush);
    else if (at('clear')) this.clear();
  }

  lamp(key) {
    const id = `surface.sheet.${key}.visible`;
    if (this.values[id] === false) delete this.values[id];
    else this.values[id] = false;
    this.look();
    this.step();
  }

  drop(key) {
    for (const id of Object.keys(this.values)) if (SHEET.exec(id)?.[1] === key) delete this.values[id];
    this.look();
    this.step();
  }

  // another accident
  again(key) {
    const id = `surface.sheet.${key}.seed`;
    this.values[id] = (Number(this.values[id] ?? 0) + 1 + Math.floor(Math.random() * (SEEDS - 2))) % SEEDS;
    this.look();
    this.step();
  }

  // a mask of the frame with a brush of half strength, in which the sheet does not lie
  brush(key) {
    const id = `surface.sheet.${key}.mask`;
    const there = /^not (.+)$/.exec(this.values[id] ?? '')?.[1];
    const mask =
      there ??
      this.masks.painted(`Off sheet ${document.querySelector('.ag-head .ag-letter')?.textContent ?? ''}`.trim());
    this.values[id] = `not ${mask}`;
    this.open(mask);
  }

  clear() {
    const mask = this.values['surface.clear'] || this.masks.painted('Keep clear');
    this.values['surface.clear'] = mask;
    this.open(mask);
  }

  open(mask) {
    this.masks.brush['mask.brush.strength'] = HALF;
    this.step();
    this.bring(`masks:${mask}:0:0`);
  }

  // ---- order: the highest stands first

  order(keys) {
    const before = JSON.stringify(this.values);
    keys.forEach((key, i) => {
      this.values[`surface.sheet.${key}.order`] = 50 + keys.length - 1 - i;
    });
    if (JSON.stringify(this.values) === before) return;
    this.look();
    this.step();
  }

  key(e) {
    const row = e.target.closest?.('[data-sheet]');
    const way = { ArrowUp: -1, ArrowDown: 1 }[e.key];
    if (!row || !way) return;
    const rows = this.rows();
    const i = rows.indexOf(row),
      j = i + way;
    e.preventDefault();
    e.stopPropagation();
    if (j < 0 || j >= rows.length) return;
    if (!e.altKey) {
      rows[j].querySelector('[data-sheet-pick]').focus();
      return;
    }
    const keys = rows.map((r) => r.dataset.sheet);
    [keys[i], keys[j]] = [keys[j], keys[i]];
    this.order(keys);
  }

  press(e) {
    const pick = e.target.closest?.('[data-sheet-pick]');
    if (pick && e.button === 0) this.held = { row: pick.closest('[data-sheet]'), y: e.clientY, moved: false };
  }

  drag(e) {
    if (!this.held) return;
    const { row, y } = this.held;
    if (!this.held.moved && Math.abs(e.clientY - y) < 5) return;
    row.classList.add('ag-hot');
    const over = this.rows().find((r) => {
      const box = r.getBoundingClientRect();
      return r !== row && e.clientY > box.top && e.clientY < box.bottom;
    });
    this.held.moved = true;
    if (!over) return;
    if (over.compareDocumentPosition(row) & Node.DOCUMENT_POSITION_FOLLOWING) over.before(row);
    else over.after(row);
  }

  release() {
    if (!this.held) return;
    const { row, moved } = this.held;
    this.held = null;
    row.classList.remove('ag-hot');
    if (moved) this.order(this.rows().map((r) => r.dataset.sheet));
  }
}
