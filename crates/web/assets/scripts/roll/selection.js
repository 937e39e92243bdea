// The frames that are chosen. They stay chosen on the bench and when one comes back.
import { between } from './rows.js';

const KEY = 'ag-chosen';

// what is chosen, wherever it is asked: the roll's number and the frames'
export function chosen() {
  return JSON.parse(sessionStorage.getItem(KEY) ?? 'null') ?? { roll: null, ids: [] };
}

export class Selection {
  constructor(roll, sheet) {
    Object.assign(this, { roll, sheet });
    const kept = chosen();
    this.ids = new Set(kept.roll === roll ? kept.ids : []);
    this.anchor = null;
    this.told = [];
    sheet.dressed = (cell, id) => cell.setAttribute('aria-selected', this.ids.has(id));
  }

  changed() {
    sessionStorage.setItem(KEY, JSON.stringify({ roll: this.roll, ids: this.list }));
    this.sheet.redress();
    this.told.forEach((tell) => tell());
  }

  // in the order of the sheet
  get list() {
    return [...this.ids].sort((a, b) => this.sheet.place(a) - this.sheet.place(b));
  }

  // what an action is for: the chosen frames, or the one on which one is
  get meant() {
    if (this.ids.size) return this.list;
    return this.sheet.current === null ? [] : [this.sheet.current];
  }

  only(id) {
    this.ids = new Set([id]);
    this.anchor = id;
    this.changed();
  }

  toggle(id) {
    if (!this.ids.delete(id)) this.ids.add(id);
    this.anchor = id;
    this.changed();
  }

  // from the last one that was chosen to this one
  reach(id) {
    const { sheet } = this;
    this.set(between(sheet.ids, sheet.place(this.anchor ?? id), sheet.place(id)));
  }

  set(ids) {
    this.ids = new Set(ids);
    this.changed();
  }

  all() {
    this.set(this.sheet.ids);
  }

  // those that are no longer on the roll
  drop(ids) {
    ids.forEach((id) => this.ids.delete(id));
    this.changed();
  }
}
