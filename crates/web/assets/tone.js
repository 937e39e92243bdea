// Tone on the bench: the sequence of baths, and the ramp with the places of four tones.
const STRIP = [8, 296], TOP = 10, HEIGHT = 46; // of the drawing
const MEETING = [50, 35]; // where two tones meet at no balance, and how far balance moves it
const BATH = /^tone\.bath\.(\d+)\./;
const COMMON = {
  sepia: [['sepia', 100]],
  selenium: [['selenium', 80]],
  crossed: [['sepia', 35], ['selenium', 90]],
  gold: [['gold', 90]],
};

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
    for (const k of Object.keys(this.frame.values)) if (keys.includes(+(BATH.exec(k)?.[1] ?? -1))) delete this.frame.values[k];
  }

  // the sequence is written down as places
  order(keys) {
    keys.forEach((key, i) => { this.frame.values[`tone.bath.${key}.place`] = i + 1; });
    this.step();
  }

  add(toner, time) {
    const n = this.free();
    if (n > 99) { this.complain('99 baths is the most.'); return; }
    const values = this.frame.values;
    values[`tone.bath.${n}.toner`] = toner;
    if (time !== 50) values[`tone.bath.${n}.time`] = time;
    values[`tone.bath.${n}.place`] = 1 + Math.max(0, ...Object.keys(values).filter((k) => /^tone\.bath\.\d+\.place$/.test(k)).map((k) => values[k]));
  }

  click(e) {
    const at = (name) => e.target.closest?.(`[data-${name}]`);
    let b;
    if ((b = at('tone'))) {
      const what = b.dataset.tone;
      if (what === 'add') this.add('sepia', 50);
      else {
        this.drop(this.keys());
        if (what === 'none') for (const k of Object.keys(this.frame.values)) if (k.startsWith('tone.') && !k.startsWith('tone.coating') && k !== 'tone.pigment') delete this.frame.values[k];
        for (const [toner, time] of COMMON[what] ?? []) this.add(toner, time);
      }
      this.step();
    } else if ((b = at('bath-drop'))) {
      this.drop([+b.dataset.bathDrop]);
      this.step();
    } else if ((b = at('bath-up') ?? at('bath-down'))) {
      const keys = this.keys();
      const key = +(b.dataset.bathUp ?? b.dataset.bathDown);
      const i = keys.indexOf(key), j = i + (b.dataset.bathUp ? -1 : 1);
      if (j < 0 || j >= keys.length) return;
      [keys[i], keys[j]] = [keys[j], keys[i]];
      this.order(keys);
    }
  }

  // ---- the ramp

  get svg() { return document.getElementById('ag-ramp'); }

  paint() {
    if (!this.svg) return;
    this.places();
    if (!this.svg.dataset.loaded) this.load();
  }

  async load() {
    if (!this.svg) return;
    if (this.busy) { this.again = true; return; }
    this.busy = true;
    const answer = await fetch(`/frames/${this.frame.id}/ramp`, {
      method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ values: this.values() }),
    }).catch(() => null);
    if (answer?.ok && this.svg) {
      this.svg.querySelector('.ag-ground').innerHTML = await answer.text();
      this.svg.dataset.loaded = 'true';
    }
    this.busy = false;
    if (this.again) { this.again = false; this.load(); }
  }

  // places 1 to 4 are those of the four tones, 0 is where two tones meet
  control(n) { return document.querySelector(`.ag-ctl[data-control="${this.id(n)}"]`); }
  id(n) { return n ? `tone.four.${n}.place` : 'tone.two.balance'; }
  at(n) { const v = +this.control(n).dataset.value; return n ? v : MEETING[0] + (MEETING[1] * v) / 100; }
  colour(n) { return document.querySelector(`input[data-colour="tone.four.${n}.colour"]`)?.value ?? '#888888'; }

  places() {
    const layer = this.svg.querySelector('.ag-places');
    const [left, right] = STRIP;
    layer.innerHTML = [0, 1, 2, 3, 4].map((n) => {
      const c = this.control(n);
      if (!c) return '';
      const x = left + ((right - left) * this.at(n)) / 100;
      if (!n) return `<g class="ag-place" tabindex="0" role="slider" data-place="0" aria-label="Where two tones meet" aria-valuemin="-100" aria-valuemax="100" aria-valuenow="${c.dataset.value}" transform="translate(${x.toFixed(1)} 0)"><path d="M0 ${TOP - 1}l6 -8h-12z" fill="#ddd" stroke="#111" stroke-width="1"/></g>`;
      return `<g class="ag-place" tabindex="0" role="slider" data-place="${n}" aria-label="Place of colour ${n}" aria-valuemin="0" aria-valuemax="100" aria-valuenow="${c.dataset.value}" transform="translate(${x.toFixed(1)} 0)"><path d="M0 ${TOP + HEIGHT + 2}l7 9v16h-14v-16z" fill="${this.colour(n)}" stroke="#eee" stroke-width="1.2"/><text y="${TOP + HEIGHT + 40}" text-anchor="middle" class="ag-axis">${n}</text></g>`;
    }).join('');
  }

  move(n, v, how) {
    const value = Math.round(n ? Math.min(100, Math.max(0, v)) : Math.min(100, Math.max(-100, (100 * (v - MEETING[0])) / MEETING[1])));
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
    const box = this.svg.getBoundingClientRect();
    const scale = Math.min(box.width / 470, box.height / 142);
    const x = (e.clientX - box.left - (box.width - 470 * scale) / 2) / scale;
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
