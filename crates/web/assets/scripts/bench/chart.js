// The film chart: it follows a moving curve, and has handles: toe and shoulder sideways, contrast up and down.
import { show } from '../controls/controls.js';
import { ask } from '../page/ask.js';
import { unitsPerPixel } from '../page/svg.js';

const PAUSE_MS = 250;
const drawing = () => document.getElementById('ag-chart');

export class Chart {
  // `changed(id, value, own, moving)` takes what a handle moves
  constructor({ frame, changed }) {
    Object.assign(this, { frame, changed });
    this.held = null;
    document.addEventListener('pointerdown', (e) => this.press(e));
    document.addEventListener('pointermove', (e) => this.drag(e));
    for (const end of ['pointerup', 'pointercancel']) document.addEventListener(end, () => this.release());
    document.addEventListener('keydown', (e) => this.escape(e), { capture: true });
    this.layer('red');
  }

  // which layer's handles are shown: that of the open tab
  layer(name) {
    document.getElementById('ag-app').dataset.layer = (name || 'red').toLowerCase();
  }

  // one request at a time, the newest values
  async redraw() {
    this.wanted = true;
    if (this.busy) return;
    this.busy = true;
    while (this.wanted) {
      this.wanted = false;
      const json = { values: this.frame.values, off: this.frame.off };
      const answer = await ask(`/frames/${this.frame.id}/chart`, { json, quiet: true });
      const drawn = answer && (await answer.text());
      // a handle in hand must not be swapped away
      if (drawn && !this.held) drawing().innerHTML = drawn;
      // the picture comes first
      await new Promise((go) => setTimeout(go, PAUSE_MS));
    }
    this.busy = false;
  }

  press(e) {
    const knot = e.target.closest?.('[data-handle]');
    if (!knot || e.button !== 0) return;
    e.preventDefault();
    knot.setPointerCapture(e.pointerId);
    const scale = unitsPerPixel(drawing());
    const [from, cx, cy] = [+knot.dataset.value, +knot.getAttribute('cx'), +knot.getAttribute('cy')];
    this.held = { knot, x: e.clientX, y: e.clientY, scale, from, value: from, cx, cy };
  }

  drag(e) {
    if (!this.held) return;
    const { knot, scale, x, y, cx, cy, from } = this.held;
    const { axis, per, low, high, step, own, handle } = knot.dataset;
    const way = axis === 'x' ? (e.clientX - x) * scale : (y - e.clientY) * scale;
    const raw = from + way * +per * (e.shiftKey ? 0.1 : 1);
    const value = Number((Math.round(Math.min(+high, Math.max(+low, raw)) / +step) * +step).toFixed(6));
    knot.setAttribute(axis === 'x' ? 'cx' : 'cy', axis === 'x' ? cx + way : cy - way);
    if (value === this.held.value) return;
    this.held.value = value;
    show(handle, value);
    this.changed(handle, value, value === +own, true);
  }

  release() {
    if (!this.held) return;
    const { knot, value, from } = this.held;
    this.held = null;
    if (value !== from) this.changed(knot.dataset.handle, value, value === +knot.dataset.own, false);
    else this.redraw();
  }

  // Escape in the middle of a drag gives the value back
  escape(e) {
    if (e.key !== 'Escape' || !this.held) return;
    const { knot, from } = this.held;
    this.held = null;
    show(knot.dataset.handle, from);
    this.changed(knot.dataset.handle, from, from === +knot.dataset.own, true);
    this.redraw();
    e.stopImmediatePropagation();
  }
}
