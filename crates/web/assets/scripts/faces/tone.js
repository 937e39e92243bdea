// Tone on the bench: the sequence of baths, and the ramp with the places of four tones.
import { ask } from '../page/ask.js';
import { declared, within } from '../page/declared.js';
import { el, pointIn } from '../page/svg.js';

const STRIP = [8, 296],
  TOP = 10,
  HEIGHT = 46; // of the drawing
const BATH = /^tone\.bath\.(\d+)\./;

export class Tone {
  // `changed(values, how)` moves values; `step()` keeps what was done to the values as one step
  constructor({ frame, values, changed, step, complain }) {
    Object.assign(this, { frame, values, changed, step, complain });
    document.addEventListener('click', (e) => this.click(e));
    document.addEventListener('pointerdown', (e) => this.press(e));
    document.addEventListener('pointermove', (e) => this.drag(e));
    for (const end of ['pointerup', 'pointercancel']) document.addEventListener(end, () => this.release());
    document.addEventListener('keydown', (e) => this.escape(e), { capture: true });
    document.addEventListener('keydown', (e) => this.key(e));
  }

  // ---- baths

  keys() {
    return [...document.querySelectorAll('.ag-bath')].map((b) => +b.dataset.bath);
  }

  free() {
    const values = this.frame.values;
    let n = 1;
    while (Object.keys(values).some((k) => k.startsWith(`tone.bath.${n}.`))) n++;
    return n;
  }

  drop(keys) {
    for (const k of Object.keys(this.frame.values))
      if (keys.includes(+(BATH.exec(k)?.[1] ?? -1))) delete this.frame.values[k];
  }

  // all that gives the print a colour; the coating and its pigment stay
  dropColours() {
    const values = this.frame.values;
    const stays = (k) => !k.startsWith('tone.') || k.startsWith('tone.coating') || k === 'tone.pigment';
    for (const k of Object.keys(values)) if (!stays(k)) delete values[k];
  }

  // the sequence is written down as places
  order(keys) {
    keys.forEach((key, i) => {
      this.frame.values[`tone.bath.${key}.place`] = i + 1;
    });
    this.step();
  }

  add(toner, time) {
    const n = this.free();
    if (n > declared.mostItems) {
      this.complain(`${declared.mostItems} baths is the most.`);
      return;
    }
    const values = this.frame.values;
    values[`tone.bath.${n}.toner`] = toner;
    if (time !== declared.firstBath[1]) values[`tone.bath.${n}.time`] = time;
    const places = Object.keys(values).filter((k) => /^tone\.bath\.\d+\.place$/.test(k));
    values[`tone.bath.${n}.place`] = 1 + Math.max(0, ...places.map((k) => values[k]));
  }

  click(e) {
    const at = (name) => e.target.closest?.(`[data-${name}]`);
    let b;
    if ((b = at('tone'))) {
      const what = b.dataset.tone;
      if (what === 'add') this.add(...declared.firstBath);
      else {
        this.drop(this.keys());
        if (what === 'none') this.dropColours();
        for (const [toner, time] of declared.tones[what]) this.add(toner, time);
      }
      this.step();
    } else if ((b = at('bath-drop'))) {
      this.drop([+b.dataset.bathDrop]);
      this.step();
    } else if ((b = at('bath-up') ?? at('bath-down'))) {
      const keys = this.keys();
      const key = +(b.dataset.bathUp ?? b.dataset.bathDown);
      const i = keys.indexOf(key),
        j = i + (b.dataset.bathUp ? -1 : 1);
      if (j < 0 || j >= keys.length) return;
      [keys[i], keys[j]] = [keys[j], keys[i]];
      this.order(keys);
    }
  }

  // ---- the ramp

  get svg() {
    return document.getElementById('ag-ramp');
  }

  paint() {
    if (!this.svg) return;
    this.places();
    if (!this.svg.dataset.loaded) this.load();
  }

  async load() {
    if (!this.svg) return;
    if (this.busy) {
      this.again = true;
      return;
    }
    this.busy = true;
    const json = { values: this.values(), off: this.frame.off };
    const answer = await ask(`/frames/${this.frame.id}/ramp`, { json, quiet: true });
    const drawing = answer && (await answer.text());
    // the bench may have turned to another station meanwhile
    if (drawing && this.svg) {
      this.svg.querySelector('.ag-ground').innerHTML = drawing;
      this.svg.dataset.loaded = 'true';
    }
    this.busy = false;
    if (this.again) {
      this.again = false;
      this.load();
    }
  }

  // places 1 to 4 are those of the four tones, 0 is where two tones meet
  control(n) {
    return document.querySelector(`.ag-ctl[data-control="${this.id(n)}"]`);
  }
  id(n) {
    return n ? `tone.four.${n}.place` : 'tone.two.balance';
  }
  at(n) {
    const v = +this.control(n).dataset.value;
    return n ? v : declared.meeting.middle + (declared.meeting.way * v) / 100;
  }
  colour(n) {
    return document.querySelector(`input[data-colour="tone.four.${n}.colour"]`)?.value ?? '#888888';
  }

  places() {
    const layer = this.svg.querySelector('.ag-places');
    layer.innerHTML = [0, 1, 2, 3, 4].map((n) => this.place(n)).join('');
  }

  // an arrow over the strip where two tones meet, a tag under it for each of four
  place(n) {
    const c = this.control(n);
    if (!c) return '';
    const [left, right] = STRIP;
    const x = left + ((right - left) * this.at(n)) / 100;
    const slider = {
      class: 'ag-place',
      tabindex: 0,
      role: 'slider',
      'data-place': n,
      'aria-label': n ? `Place of colour ${n}` : 'Where two tones meet',
      'aria-valuemin': n ? 0 : -100,
      'aria-valuemax': 100,
      'aria-valuenow': c.dataset.value,
      transform: `translate(${x.toFixed(1)} 0)`,
    };
    const foot = TOP + HEIGHT;
    const arrow = { d: `M0 ${TOP - 1}l6 -8h-12z`, fill: '#ddd', stroke: '#111', 'stroke-width': 1 };
    const tag = { d: `M0 ${foot + 2}l7 9v16h-14v-16z`, fill: this.colour(n), stroke: '#eee', 'stroke-width': 1.2 };
    if (!n) return el('g', slider, el('path', arrow));
    const number = el('text', { y: foot + 40, 'text-anchor': 'middle', class: 'ag-axis' }, n);
    return el('g', slider, el('path', tag), number);
  }

  move(n, v, how) {
    const { middle, way } = declared.meeting;
    const value = within(this.id(n), Math.round(n ? v : (100 * (v - middle)) / way));
    this.changed({ [this.id(n)]: value }, how);
    const focus = document.activeElement?.dataset?.place;
    this.places();
    if (focus) this.svg.querySelector(`[data-place="${focus}"]`)?.focus();
  }

  press(e) {
    const grip = e.target.closest?.('.ag-grip');
    if (grip && e.button === 0) {
      e.preventDefault();
      this.bath = { row: grip.closest('.ag-bath'), y: e.clientY };
      this.bath.row.classList.add('ag-hot');
      return;
    }
    const place = e.target.closest?.('[data-place]');
    if (!place || e.button !== 0) return;
    e.preventDefault();
    place.focus();
    this.held = { n: +place.dataset.place, start: this.at(+place.dataset.place) };
  }

  drag(e) {
    if (this.bath) {
      const { row } = this.bath;
      const over = [...document.querySelectorAll('.ag-bath')].find((b) => {
        const box = b.getBoundingClientRect();
        return b !== row && e.clientY > box.top && e.clientY < box.bottom;
      });
      if (over) {
        if (over.compareDocumentPosition(row) & Node.DOCUMENT_POSITION_FOLLOWING) over.before(row);
        else over.after(row);
        this.bath.moved = true;
      }
      return;
    }
    if (!this.held) return;
    const { x } = pointIn(this.svg, e);
    this.held.value = (100 * (x - STRIP[0])) / (STRIP[1] - STRIP[0]);
    this.move(this.held.n, this.held.value, true);
  }

  release() {
    if (this.bath) {
      const { row, moved } = this.bath;
      this.bath = null;
      row.classList.remove('ag-hot');
      if (moved) this.order(this.keys());
    }
    if (!this.held) return;
    const { n, value } = this.held;
    this.held = null;
    if (value !== undefined) this.move(n, value, false);
  }

  // what the hand did is given back
  escape(e) {
    if (e.key !== 'Escape' || !this.held) return;
    const { n, start, value } = this.held;
    this.held = null;
    if (value !== undefined) this.move(n, start, true);
    e.stopImmediatePropagation();
  }

  key(e) {
    const place = e.target.closest?.('[data-place]');
    const way = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[e.key];
    if (!place || !way) return;
    e.preventDefault();
    const n = +place.dataset.place;
    this.move(n, this.at(n) + way * (e.shiftKey ? 1 : 5), 'key');
  }
}
