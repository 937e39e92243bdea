// The chosen sheet on the picture: a white line with a dark casing, eight squares that scale it, a round one that turns
// it, and a cross in its middle.
import { within } from '../page/declared.js';
import { grasped, groundOf, moved, placed, sizeOf } from './sheet-shape.js';

const REACH = 12; // pixels within which a handle is caught
const LAID = { x: 0, y: 0, scale: 100, turn: 0 };

export class SheetHandles {
  // `chosen()` gives the key of the sheet on the bench, or nothing; `taken(values, moving)` moves values
  constructor({ frame, canvas, view, chosen, values, taken, tell }) {
    Object.assign(this, { frame, canvas, view, chosen, values, taken, tell });
    for (const [event, act] of [
      ['pointerdown', 'press'],
      ['pointermove', 'drag'],
      ['pointerup', 'release'],
      ['pointercancel', 'release'],
    ])
      canvas.addEventListener(event, (e) => this[act](e), { capture: true });
    document.addEventListener('keydown', (e) => this.escape(e), { capture: true });
  }

  id(name) {
    return `surface.sheet.${this.chosen()}.${name}`;
  }

  laid(values = this.values()) {
    const of = ([name, own]) => [name, Number(values[this.id(name)] ?? own)];
    return Object.fromEntries(Object.entries(LAID).map(of));
  }

  // where it lies on the canvas
  shape(box, values) {
    const row = document.querySelector(`#ag-bench [data-laying]`);
    const onFilm = row?.dataset.laying === 'film';
    const picture = row?.dataset.picture ? row.dataset.picture.split(',').map(Number) : null;
    const ground = groundOf(this.frame, onFilm, box);
    const laid = this.laid(values);
    return { ground, laid, ...placed(ground, sizeOf(ground, picture, values[this.id('fit')]), laid) };
  }

  press(e) {
    if (!this.chosen() || e.button !== 0) return;
    const shape = this.shape(this.view.box(), this.values());
    // where the picture can be panned, only the handles and the cross are the sheet's
    const what = grasped(shape, shape.laid, this.view.pointOf(e), REACH, this.view.fitted);
    if (!what) return;
    e.stopImmediatePropagation();
    e.preventDefault();
    this.canvas.focus();
    this.canvas.setPointerCapture(e.pointerId);
    this.held = { what, shape, from: this.view.pointOf(e), changed: null };
  }

  drag(e) {
    if (!this.held) return;
    e.stopImmediatePropagation();
    const { what, shape, from } = this.held;
    const now = moved(what, shape.ground, shape.laid, from, this.view.pointOf(e), e.shiftKey);
    const changed = {};
    for (const [name, v] of Object.entries(now))
      changed[this.id(name)] = within(`surface.sheet.${name}`, v, { step: true });
    this.held.changed = changed;
    this.taken(changed, true);
    this.tell(this.said());
    this.view.draw();
  }

  said() {
    const { x, y, scale, turn } = this.laid();
    const signed = (v, unit) => `${v < 0 ? '−' : v > 0 ? '+' : ''}${Math.abs(v).toFixed(1)} ${unit}`;
    return {
      move: `Across ${signed(x, '%')}, down ${signed(y, '%')}`,
      scale: `Scale ${scale.toFixed(1)} %`,
      turn: `Turn ${signed(turn, '°')}`,
    }[this.held.what];
  }

  release(e) {
    if (!this.held) return;
    e.stopImmediatePropagation();
    const { changed } = this.held;
    this.held = null;
    if (changed) this.taken(changed, false);
    this.tell('');
    this.view.draw();
  }

  // what the hand did is given back
  escape(e) {
    if (e.key !== 'Escape' || !this.held) return;
    const { changed, shape } = this.held;
    this.held = null;
    if (changed) {
      const back = Object.keys(changed).map((id) => [id, shape.laid[id.split('.').at(-1)]]);
      this.taken(Object.fromEntries(back), true);
    }
    this.tell('');
    this.view.draw();
    e.stopImmediatePropagation();
  }

  paint(g, ...box) {
    if (!this.chosen()) return;
    const { handles, round, middle } = this.shape(box, this.values());
    const corners = [0, 2, 4, 6].map((k) => handles[k]);
    g.save();
    for (const [style, width] of [
      ['rgba(0,0,0,.55)', 3],
      ['#fff', 1.25],
    ]) {
      g.strokeStyle = style;
      g.lineWidth = width;
      g.beginPath();
      corners.forEach(([x, y], k) => (k ? g.lineTo(x, y) : g.moveTo(x, y)));
      g.closePath();
      g.moveTo(...handles[1]);
      g.lineTo(...round);
      g.moveTo(middle[0] - 7, middle[1]);
      g.lineTo(middle[0] + 7, middle[1]);
      g.moveTo(middle[0], middle[1] - 7);
      g.lineTo(middle[0], middle[1] + 7);
      g.stroke();
    }
    g.lineWidth = 1.25;
    g.strokeStyle = '#fff';
    for (const [x, y] of handles) {
      g.fillStyle = this.held?.what === 'scale' ? '#f0a440' : '#1b1b1b';
      g.fillRect(x - 4, y - 4, 8, 8);
      g.strokeRect(x - 4, y - 4, 8, 8);
    }
    g.fillStyle = this.held?.what === 'turn' ? '#f0a440' : '#1b1b1b';
    g.beginPath();
    g.arc(...round, 5, 0, 2 * Math.PI);
    g.fill();
    g.stroke();
    g.restore();
  }
}
