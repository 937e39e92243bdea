// Tools that act on a place of the picture: hues of the film and of the scene, pressed and dragged, a neutral, pressed,
// and the middle of an effect, dragged.
import { cornerAt, cropValues, dragged, drawCrop } from './crop.js';
import { middleAt, placed } from './places.js';

import { ask } from '../page/ask.js';
import { within } from '../page/declared.js';
const written = (v, digits, unit) => `${v < 0 ? '−' : '+'}${Math.abs(v).toFixed(digits)} ${unit}`;

// what a drag changes for a band that has `part` of the colour
const DRAGS = {
  hue: {
    hint: 'Press on the picture and drag up for lighter, down for darker.',
    change: (h, from, { dy }) => ({ [h.id]: within(h.id, from(h.id) + (dy / 80) * h.part) }),
    tell: ({ dy }) => written(dy / 80, 2, 'EV'),
  },
  band: {
    hint: 'Press on the picture and drag: up lighter, right more colour, Shift right turns the hue.',
    change: (h, from, { dx, dy, turn }) => {
      const id = (what) => `scene.band.${h.label.toLowerCase()}.${what}`;
      const moved = (what, by) => ({ [id(what)]: within(id(what), from(id(what)) + by * h.part) });
      return { ...moved('lightness', dy / 100), ...(turn ? moved('hue', dx / 4) : moved('saturation', dx / 2)) };
    },
    tell: ({ dx, dy, turn }) => {
      const aside = turn ? `hue ${written(dx / 4, 0, '°')}` : `saturation ${written(dx / 2, 0, '%')}`;
      return `${aside}, lightness ${written(dy / 100, 2, 'EV')}`;
    },
  },
  crop: { hint: 'Drag the picture under the frame, or a corner of the frame; the wheel changes the size.' },
  level: { hint: 'Draw a line along what should be level or upright.' },
  place: { hint: 'Drag the middle on the picture.' },
  neutral: { hint: 'Press on a grey of the picture that should be neutral.' },
};

export class Picker {
  // `moved(values)` while dragging, `rested(values)` once
  constructor(frame, canvas, view, { values, moved, rested, tell, complain }) {
    Object.assign(this, { frame, canvas, view, values, moved, rested, tell, complain });
    this.tool = null;
    canvas.addEventListener('pointerdown', (e) => this.press(e), { capture: true });
    canvas.addEventListener('pointermove', (e) => this.drag(e), { capture: true });
    for (const end of ['pointerup', 'pointercancel'])
      canvas.addEventListener(end, (e) => this.release(e), { capture: true });
    canvas.addEventListener('wheel', (e) => this.wheel(e), { capture: true, passive: false });
    document.addEventListener('keydown', (e) => this.escape(e), { capture: true });
  }

  get on() {
    return this.tool !== null;
  }

  toggle(tool) {
    this.tool = this.tool === tool ? null : tool;
    this.canvas.classList.toggle('ag-picking', this.on);
    this.mark();
    this.tell(this.on ? DRAGS[this.tool].hint : '');
    this.view.draw();
  }

  mark() {
    document
      .querySelectorAll('[data-pick]')
      .forEach((b) => b.setAttribute('aria-pressed', b.dataset.pick === this.tool));
  }

  place(e) {
    const [x, y] = this.view.toFrame(this.view.pointOf(e));
    return [x / this.frame.width, y / this.frame.height];
  }

  async ask(path, values, place) {
    const answer = await ask(`/frames/${this.frame.id}/${path}`, { json: { values, off: this.frame.off, place } });
    return answer?.json() ?? null;
  }

  async press(e) {
    if (!this.on || e.button !== 0) return;
    e.stopImmediatePropagation();
    e.preventDefault();
    this.canvas.setPointerCapture(e.pointerId);
    const held = { x: e.clientX, y: e.clientY, dx: 0, dy: 0, turn: false, start: { ...this.values() } };
    this.held = held;
    const place = this.place(e);
    if (this.tool === 'place') {
      this.middle(held, e);
      return;
    }
    if (this.tool === 'crop') {
      held.corner = cornerAt(this.view.pointOf(e), this.view.box());
      return;
    }
    if (this.tool === 'level') return;
    if (this.tool === 'neutral') {
      const balance = await this.ask('neutral', held.start, place);
      if (balance) this.rested(balance);
      this.toggle('neutral');
      return;
    }
    const hues = await this.ask('hues', held.start, place);
    if (!hues || this.held !== held) return;
    const shares = hues.filter((h) => h.share > 0.02).sort((a, b) => b.share - a.share);
    if (!shares.length) {
      this.tell('A grey has no hue to move.');
      return;
    }
    held.shares = shares.map((h) => ({ ...h, part: h.share / shares[0].share }));
    this.apply(held);
  }

  drag(e) {
    if (!this.held) return;
    e.stopImmediatePropagation();
    if (this.tool === 'place') {
      this.middle(this.held, e);
      return;
    }
    if (this.tool === 'crop' && this.held.corner) {
      const size = Number(this.held.start['lens.crop.size'] ?? 100);
      this.held.hand = {
        corner: this.held.corner,
        ...dragged(this.held.corner, this.view.pointOf(e), this.view.box(), size),
      };
      this.tell(`${this.held.hand.size} % of the format`);
      this.view.draw();
      return;
    }
    if (this.tool === 'crop') {
      this.shift(this.held, e);
      return;
    }
    if (this.tool === 'level') {
      this.line = [
        [this.held.x, this.held.y],
        [e.clientX, e.clientY],
      ];
      this.view.draw();
      return;
    }
    Object.assign(this.held, { dx: e.clientX - this.held.x, dy: this.held.y - e.clientY, turn: e.shiftKey });
    this.apply(this.held);
  }

  // the picture moves with the hand: the frame moves the other way over what is left over
  shift(held, e) {
    const [dx, dy] = [e.clientX - held.x, e.clientY - held.y].map((d) => d / this.view.scale);
    const moved = (id, d, slack) => within(id, Number(held.start[id] ?? 0) - (slack > 1 ? (200 * d) / slack : 0));
    const [across, down] = this.frame.slack;
    held.changed = { 'lens.crop.x': moved('lens.crop.x', dx, across), 'lens.crop.y': moved('lens.crop.y', dy, down) };
    if (across <= 1 && down <= 1) this.tell('Nothing is left over to move in: choose a format or a smaller size.');
    else this.moved(held.changed);
  }

  wheel(e) {
    if (this.tool !== 'crop') return;
    e.preventDefault();
    e.stopImmediatePropagation();
    const size = Number(this.values()['lens.crop.size'] ?? 100);
    const next = within('lens.crop.size', size * 2 ** (e.deltaY / 1200), { step: true });
    if (next !== size) this.rested({ 'lens.crop.size': next }, 'key');
  }

  // a drawn line becomes level or upright, whichever is nearer
  level(held) {
    const [[x0, y0], [x1, y1]] = this.line;
    this.line = null;
    if (Math.hypot(x1 - x0, y1 - y0) < 12) return;
    const lean = (Math.atan2(y1 - y0, x1 - x0) * 180) / Math.PI;
    const off = lean - 90 * Math.round(lean / 90);
    held.changed = { 'lens.straighten': within('lens.straighten', Number(held.start['lens.straighten'] ?? 0) + off) };
  }

  // thirds, or the line that is being drawn
  overlay(g, x, y, w, h) {
    const strokes = [];
    if (this.tool === 'crop') drawCrop(g, [x, y, w, h], this.held?.hand);
    else if (this.tool === 'level' && this.line) {
      const box = this.canvas.getBoundingClientRect();
      const [[x0, y0], [x1, y1]] = this.line;
      strokes.push([x0 - box.left, y0 - box.top, x1 - box.left, y1 - box.top]);
    }
    for (const [style, width] of [
      ['rgba(0,0,0,.55)', 3],
      ['#fff', 1],
    ]) {
      g.strokeStyle = style;
      g.lineWidth = width;
      for (const [x0, y0, x1, y1] of strokes) {
        g.beginPath();
        g.moveTo(x0, y0);
        g.lineTo(x1, y1);
        g.stroke();
      }
    }
  }

  middle(held, e) {
    const what = placed();
    if (!what) return;
    held.changed = middleAt(what, this.place(e));
    this.moved(held.changed);
  }

  apply(held) {
    if (!held.shares || !DRAGS[this.tool]?.change) return;
    const from = (id) => Number(held.start[id] ?? 0);
    const changed = Object.assign({}, ...held.shares.map((h) => DRAGS[this.tool].change(h, from, held)));
    const names = held.shares.map((h) => `${h.label} ${Math.round(100 * h.share)} %`).join(', ');
    this.tell(`${names}: ${DRAGS[this.tool].tell(held)}`);
    // what an earlier turn of the drag moved goes back
    const back = Object.fromEntries(Object.keys(held.changed ?? {}).map((id) => [id, from(id)]));
    if (held.dx !== 0 || held.dy !== 0) {
      held.changed = { ...back, ...changed };
      this.moved(held.changed);
    }
  }

  // what the hand did is given back
  escape(e) {
    if (e.key !== 'Escape' || !this.held) return;
    const { changed, start } = this.held;
    this.held = null;
    this.line = null;
    if (changed) this.moved(Object.fromEntries(Object.keys(changed).map((id) => [id, start[id]])));
    this.view.draw();
    e.stopImmediatePropagation();
  }

  release(e) {
    if (!this.held) return;
    e.stopImmediatePropagation();
    const held = this.held;
    this.held = null;
    if (this.tool === 'level' && this.line) {
      this.level(held);
      this.view.draw();
    }
    if (held.hand && held.hand.factor !== 1) held.changed = cropValues(this.frame, held.start, held.corner, held.hand);
    if (held.changed) this.rested(held.changed);
    else this.view.draw();
  }
}
