// Masks: the bench on which they lie, and the hand on the picture.
import { ask } from '../page/ask.js';
import { declared } from '../page/declared.js';
import { Places } from './places.js';
import { draw, drawBrush, dragged, fall, handles, perSide, turned } from './shapes.js';

const NAMES = { brush: 'Brush', ellipse: 'Ellipse', linear: 'Linear', hue: 'Hue', tone: 'Tone', edge: 'By edge' };
const HINTS = {
  brush: 'Paint on the picture. Alt takes away; [ and ] change the size.',
  edge: 'Stroke over the thing; the mask grows to its edges.',
  ellipse: 'Drag it, its sides, or the round handle that turns it.',
  linear: 'Drag its ends: whole at the solid line, ended at the dashed one.',
  hue: 'Press on the picture to pick a hue; with Shift the range grows.',
  tone: 'Press on the picture to pick a tone; with Shift the range grows.',
};
const REACH = 14; // pixels within which a handle is caught
const ZONES = ['0', 'I', 'II', 'III', 'IV', 'V', 'VI', 'VII', 'VIII', 'IX', 'X'];

export class Masks {
  // `busy()` says whether changes wait to be kept, `adopt(masks)` takes those that are kept;
  // `moved()` shows the masks as they are, `rested(anew)` keeps them, `soon()` after a run of keys;
  // `bring(station)` draws the bench anew
  constructor({ frame, canvas, view, moved, rested, soon, bring, busy, adopt, tell, complain, say, show }) {
    Object.assign(this, { frame, canvas, view, moved, rested, soon, bring, busy, adopt, tell, complain, say, show });
    this.brush = { ...declared.brush };
    this.overlay = true;
    this.held = null;
    for (const [event, act] of [
      ['pointerdown', 'press'],
      ['pointermove', 'drag'],
      ['pointerup', 'release'],
      ['pointercancel', 'release'],
    ]) {
      canvas.addEventListener(
        event,
        (e) => {
          if (this.part) this[act](e);
        },
        { capture: true },
      );
    }
    canvas.addEventListener('pointerleave', () => {
      this.at = null;
      if (this.part) view.draw();
    });
    canvas.addEventListener('keydown', (e) => this.key(e), { capture: true });
    document.addEventListener('click', (e) => this.click(e));
    document.addEventListener('change', (e) => this.change(e));
    document.addEventListener('keydown', (e) => this.walk(e));
    document.addEventListener('keydown', (e) => this.escape(e), { capture: true });
    document.getElementById('ag-copy-form').addEventListener('submit', (e) => this.copy(e));
  }

  // ---- what lies on the bench

  // by its data: a swapped bench keeps the classes of the one before for a moment
  get bench() {
    return document.querySelector('#ag-bench[data-masks]');
  }
  get on() {
    return this.bench !== null;
  }
  get chosen() {
    const [, id = '', part = '0', local = '0'] = (this.bench?.dataset.station ?? 'masks').split(':');
    return { id, part: +part, local: +local };
  }
  get mask() {
    return this.on ? this.frame.masks[this.chosen.id] : undefined;
  }
  get part() {
    return this.mask?.parts[this.chosen.part];
  }
  name({ id, part, local } = this.chosen) {
    return `masks:${id}:${part}:${local}`;
  }

  // after the bench was swapped; a new one brings the masks as they are kept, unless something newer is on its way
  mark() {
    const { bench } = this;
    if (bench !== this.seen) {
      this.seen = bench;
      if (bench && !this.busy()) this.adopt(JSON.parse(bench.dataset.masks));
    }
    const places = this.bench?.dataset.places;
    this.places = new Places(places ? JSON.parse(places) : null);
    for (const [id, v] of Object.entries(this.brush)) {
      const box = document.querySelector(`input[data-switch="${id}"]`);
      if (box) box.checked = v;
      else this.show(id, v);
    }
    document.querySelectorAll('[data-overlay]').forEach((b) => b.setAttribute('aria-pressed', this.overlay));
    const over = this.on && this.overlay && this.mask?.parts.length ? this.chosen.id : null;
    const changed = this.view.overlay !== over;
    this.view.overlay = over;
    this.canvas.classList.toggle('ag-picking', !!this.part);
    this.hint();
    this.wasOn = this.on;
    if (changed) this.view.request('settled');
    this.view.draw();
  }

  // what a press does, once for every part: what was said of a place since then stays
  hint() {
    const hinted = this.on ? `${this.chosen.id} ${this.chosen.part} ${this.part?.kind ?? ''}` : '';
    if (hinted === this.hinted) return;
    this.hinted = hinted;
    if (this.on) this.tell(this.part ? HINTS[this.part.kind] : '');
    else if (this.wasOn) this.tell('');
  }

  showOverlay(on) {
    this.overlay = on;
    this.mark();
  }

  // ---- buttons of the bench

  click(e) {
    if (!this.on) return;
    const at = (name) => e.target.closest?.(`[data-${name}]`);
    const { id, part, local } = this.chosen;
    let b;
    if ((b = at('mask'))) this.bring(this.name({ id: b.dataset.mask, part: 0, local: 0 }));
    else if ((b = at('part')) && b.matches('button')) this.bring(this.name({ id, part: +b.dataset.part, local }));
    else if ((b = at('local'))) this.bring(this.name({ id, part, local: +b.dataset.local - 1 }));
    else if (at('overlay')) this.showOverlay(!this.overlay);
    else if ((b = at('add'))) this.add(b.dataset.add);
    else if (at('new-mask')) this.fresh();
    else if (at('drop-mask')) this.dropMask(id);
    else if ((b = at('drop-part'))) this.edit((m) => m.parts.splice(+b.dataset.dropPart, 1));
    else if (at('wipe'))
      this.edit((m) => {
        m.parts[part].strokes = [];
      });
    else if (at('add-local')) this.addLocal(id);
    else if ((b = at('drop-local'))) this.dropLocals([`scene.local.${b.dataset.dropLocal}.`]);
    else if (at('copy-mask')) bootstrap.Modal.getOrCreateInstance(document.getElementById('ag-copy')).show();
  }

  change(e) {
    if (!this.on) return;
    if (e.target.matches('[data-join]'))
      this.edit((m) => {
        m.parts[+e.target.dataset.join].join = e.target.value;
      });
    if (e.target.matches('[data-invert]'))
      this.edit((m) => {
        m.inverted = e.target.checked;
      });
    if (e.target.id === 'ag-mask-name' && e.target.value.trim())
      this.edit((m) => {
        m.name = e.target.value.trim();
      });
  }

  free() {
    let n = 1;
    while (this.frame.masks[n]) n++;
    return String(n);
  }

  fresh(name) {
    const id = this.free();
    this.frame.masks[id] = { name: name ?? `Mask ${id}`, parts: [] };
    this.overlay = true;
    return this.keep({ id, part: 0, local: 0 });
  }

  // a new one to be painted; whoever asks says what it is for and opens it
  painted(name) {
    const id = this.free();
    this.frame.masks[id] = { name, parts: [{ join: 'add', kind: 'brush', strokes: [] }] };
    return id;
  }

  add(kind) {
    const { local } = this.chosen;
    let { id } = this.chosen;
    if (!this.frame.masks[id]) {
      id = this.free();
      this.frame.masks[id] = { name: `${NAMES[kind]} ${id}`, parts: [] };
    }
    const mask = this.frame.masks[id];
    if (!mask.parts.length && /^Mask \d+$/.test(mask.name)) mask.name = `${NAMES[kind]} ${id}`;
    const at = (x, y) => this.places.toOriginal([x, y]);
    const shape = {
      brush: { strokes: [] },
      ellipse: { centre: at(0.5, 0.5), radii: [0.14, 0.14], turn: 0, feather: 0.5 },
      linear: { from: at(0.5, 0.25), to: at(0.5, 0.7) },
      hue: { low: 20, high: 80, feather: [20, 20] },
      tone: { low: 6, high: 10, feather: [1, 1] },
      edge: { size: 0.02, reach: 0.25, strokes: [] },
    }[kind];
    mask.parts.push({ join: 'add', kind, ...shape });
    this.overlay = true;
    this.keep({ id, part: mask.parts.length - 1, local });
  }

  // changes the chosen mask in one step
  edit(act) {
    if (!this.mask) return;
    act(this.mask);
    this.keep();
  }

  keep(chosen = this.chosen) {
    this.bench.dataset.station = this.name(chosen);
    this.moved();
    return this.rested(true);
  }

  dropMask(id) {
    const values = this.frame.values;
    const asks = (v) => v === id || v === `not ${id}`;
    const users = Object.keys(values).filter((k) => k.endsWith('.mask') && asks(values[k]));
    delete this.frame.masks[id];
    for (const user of users) {
      const item = user.match(/^(scene\.local\.\d+\.)mask$/)?.[1];
      for (const k of Object.keys(values)) if (k === user || (item && k.startsWith(item))) delete values[k];
    }
    this.keep({ id: '', part: 0, local: 0 });
  }

  addLocal(id) {
    const values = this.frame.values;
    let n = 1;
    while (values[`scene.local.${n}.mask`] !== undefined) n++;
    if (n > declared.mostItems) {
      this.complain(`${declared.mostItems} local adjustments is the most.`);
      return;
    }
    values[`scene.local.${n}.mask`] = id;
    const through = Object.keys(values).filter(
      (k) => /^scene\.local\.\d+\.mask$/.test(k) && values[k].replace('not ', '') === id,
    );
    const place = through
      .map((k) => +k.split('.')[2])
      .sort((a, b) => a - b)
      .indexOf(n);
    this.keep({ ...this.chosen, local: place });
  }

  dropLocals(items) {
    for (const k of Object.keys(this.frame.values)) if (items.some((i) => k.startsWith(i))) delete this.frame.values[k];
    this.keep({ ...this.chosen, local: 0 });
  }

  async copy(e) {
    e.preventDefault();
    const frames = new FormData(e.target).getAll('frame').join(',');
    if (!frames) return;
    const answer = await ask(`/frames/${this.frame.id}/masks/${this.chosen.id}/copies`, { form: { frames } });
    bootstrap.Modal.getInstance(document.getElementById('ag-copy'))?.hide();
    if (answer) this.say(await answer.text());
  }

  // ---- values of a mask, a part, the brush

  // a control whose id begins with `mask.`
  set(id, v, moving) {
    if (id in this.brush) {
      this.brush[id] = v;
      this.view.draw();
      return;
    }
    if (!this.mask) return;
    const part = this.part;
    const set =
      {
        'mask.feather': () => {
          this.mask.feather = v / 100;
        },
        'mask.ellipse.width': () => {
          part.radii = [v / 200, part.radii[1]];
        },
        'mask.ellipse.height': () => {
          part.radii = [part.radii[0], v / 200];
        },
        'mask.ellipse.turn': () => {
          part.turn = v;
        },
        'mask.ellipse.feather': () => {
          part.feather = v / 100;
        },
        'mask.linear.angle': () =>
          Object.assign(part, turned(part, this.frame.original, v, fall(part, this.frame.original).length)),
        'mask.linear.length': () =>
          Object.assign(part, turned(part, this.frame.original, fall(part, this.frame.original).angle, v / 100)),
        'mask.edge.size': () => {
          part.size = v / 100;
        },
        'mask.edge.reach': () => {
          part.reach = v / 100;
        },
      }[id] ??
      (() => {
        const what = id.split('.')[2];
        if (what === 'low' || what === 'high') part[what] = v;
        else part.feather = what === 'below' ? [v, part.feather[1]] : [part.feather[0], v];
      });
    set();
    this.moved();
    this.view.draw();
    if (moving === false) this.rested(false);
    if (moving === 'key') this.soon();
  }

  // ---- the hand on the picture

  toScreen(place) {
    const [x, y] = this.places.toFrame(place);
    const { view } = this;
    return [
      view.width / 2 + (x * this.frame.width - view.centre[0]) * view.scale,
      view.height / 2 + (y * this.frame.height - view.centre[1]) * view.scale,
    ];
  }

  toPlace([x, y]) {
    const [fx, fy] = this.view.toFrame([x, y]);
    const round = (v) => Math.round(v * 1e5) / 1e5;
    return this.places
      .toOriginal([fx / this.frame.width, fy / this.frame.height])
      .map((v) => round(Math.min(4, Math.max(-3, v))));
  }

  // diameter of the brush on the screen
  diameter() {
    const size = this.part.kind === 'edge' ? this.part.size : this.brush['mask.brush.size'] / 100;
    return size * Math.hypot(...this.frame.original) * this.view.scale;
  }

  pointer(e) {
    const box = this.canvas.getBoundingClientRect();
    return [e.clientX - box.left, e.clientY - box.top];
  }

  press(e) {
    if (e.button !== 0) return;
    if (this.held) {
      // a second finger zooms: what the first one did is taken back
      if (e.pointerId !== this.held.pointer) this.abandon();
      return;
    }
    const { kind } = this.part;
    const at = this.pointer(e);
    const start = structuredClone(this.part);
    this.held = { pointer: e.pointerId, start, from: this.toPlace(at), last: at };
    if (kind === 'brush' || kind === 'edge') this.stroke(at, e.altKey);
    else if (kind === 'hue' || kind === 'tone') this.pick(at, e.shiftKey);
    else {
      const near = handles(start, this.frame.original)
        .map(([name, place]) => {
          const [x, y] = this.toScreen(place);
          return { name, distance: Math.hypot(x - at[0], y - at[1]) };
        })
        .sort((a, b) => a.distance - b.distance)[0];
      if (near.distance > REACH) {
        this.held = null;
        return;
      }
      this.held.name = near.name;
    }
    e.stopImmediatePropagation();
    e.preventDefault();
    this.canvas.setPointerCapture(e.pointerId);
    this.view.draw();
  }

  stroke(at, other) {
    const place = this.toPlace(at);
    const brush = this.brush;
    this.line = [at];
    if (this.part.kind === 'edge') this.part.strokes.push([place]);
    else {
      this.part.strokes.push({
        size: brush['mask.brush.size'] / 100,
        softness: brush['mask.brush.softness'] / 100,
        strength: brush['mask.brush.strength'] / 100,
        erase: brush['mask.brush.erase'] !== other,
        points: [place],
      });
    }
    this.moved();
  }

  points() {
    const last = this.part.strokes.at(-1);
    return last.points ?? last;
  }

  drag(e) {
    this.at = this.pointer(e);
    const held = this.held;
    if (!held || e.pointerId !== held.pointer) {
      if (this.draws) this.view.draw();
      return;
    }
    e.stopImmediatePropagation();
    const at = this.at;
    if (this.line) {
      // as fine as the brush needs it
      const step = Math.max(1.5, this.diameter() / 16);
      if (Math.hypot(at[0] - held.last[0], at[1] - held.last[1]) < step) return;
      held.last = at;
      this.line.push(at);
      this.points().push(this.toPlace(at));
      this.moved();
    } else if (held.name) {
      Object.assign(this.part, dragged(held.start, held.name, this.toPlace(at), held.from, this.frame.original));
      this.showPart();
      this.moved();
    }
    this.view.draw();
  }

  get draws() {
    return ['brush', 'edge'].includes(this.part?.kind);
  }

  // the numbers of the chosen part follow the hand
  showPart() {
    const p = this.part;
    const numbers =
      p.kind === 'ellipse'
        ? { width: 200 * p.radii[0], height: 200 * p.radii[1], turn: p.turn }
        : p.kind === 'linear'
          ? { angle: fall(p, this.frame.original).angle, length: 100 * fall(p, this.frame.original).length }
          : {};
    for (const [name, v] of Object.entries(numbers)) this.show(`mask.${p.kind}.${name}`, v);
  }

  release(e) {
    const held = this.held;
    if (!held || e.pointerId !== held.pointer) return;
    e.stopImmediatePropagation();
    this.held = null;
    const drawn = this.line !== null;
    this.line = null;
    if (held.name || drawn) {
      this.moved(true);
      this.rested(false);
    }
    this.view.draw();
  }

  // what the hand did is given back
  escape(e) {
    if (e.key !== 'Escape' || !this.held) return;
    e.stopImmediatePropagation();
    this.abandon();
    this.showPart();
    this.view.draw();
  }

  abandon() {
    Object.assign(this.part, this.held.start);
    this.held = null;
    this.line = null;
    this.moved(true);
  }

  async pick(at, grow) {
    const [x, y] = this.view.toFrame(at);
    const place = [x / this.frame.width, y / this.frame.height];
    const { part } = this;
    const json = { values: this.frame.values, off: this.frame.off, place };
    const answer = await ask(`/frames/${this.frame.id}/range`, { json });
    if (!answer) return;
    const found = await answer.json();
    const round = (v, step) => Number((Math.round(v / step) * step).toFixed(3));
    if (part.kind === 'tone') {
      const zone = Math.min(13, Math.max(-3, round(found.zone, 0.1)));
      part.low = grow ? Math.min(part.low, zone) : round(zone - 0.5, 0.1);
      part.high = grow ? Math.max(part.high, zone) : round(zone + 0.5, 0.1);
      this.tell(`Zone ${ZONES[Math.min(10, Math.max(0, Math.round(found.zone)))]}, ${found.zone.toFixed(1)}`);
    } else {
      if (found.colour < 0.02) {
        this.tell('A grey has no hue to pick.');
        return;
      }
      const hue = round(found.hue, 1);
      const middle = (part.low + part.high) / 2;
      const near = hue - 360 * Math.round((hue - middle) / 360);
      part.low = grow ? Math.min(part.low, near) : hue - 15;
      part.high = grow ? Math.max(part.high, near) : hue + 15;
      this.tell(`Hue ${hue}°`);
    }
    this.show(`mask.${part.kind}.low`, part.low);
    this.show(`mask.${part.kind}.high`, part.high);
    this.moved(true);
    this.rested(false);
  }

  // arrows choose in the lists
  walk(e) {
    const row = e.target.closest?.('.ag-masklist [role=radio]');
    const way = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[e.key];
    if (!row || !way) return;
    const all = [...row.closest('.ag-masklist').querySelectorAll('[role=radio]')];
    const next = all[(all.indexOf(row) + way + all.length) % all.length];
    e.preventDefault();
    next.focus();
    next.click();
  }

  // arrows move an ellipse or a fall; brackets size the brush
  key(e) {
    const part = this.part;
    if (!part || !['ellipse', 'linear'].includes(part.kind) || !e.code.startsWith('Arrow') || e.ctrlKey || e.metaKey)
      return;
    e.preventDefault();
    e.stopImmediatePropagation();
    const step = e.shiftKey ? 0.001 : 0.01;
    const [x, y] = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[e.code];
    const [px, py] = perSide(this.frame.original);
    Object.assign(part, dragged(part, 'centre', [x * px, y * py], [0, 0], this.frame.original));
    this.moved();
    this.view.draw();
    this.soon();
  }

  bracket(way) {
    if (!this.draws) return;
    const id = this.part.kind === 'edge' ? 'mask.edge.size' : 'mask.brush.size';
    const now = this.part.kind === 'edge' ? this.part.size * 100 : this.brush[id];
    const next = Math.min(50, Math.max(0.2, Number((now * 1.15 ** way).toFixed(1)) || 0.2));
    this.show(id, next);
    this.set(id, next, 'key');
  }

  // drawn over the picture
  paint(g, ...picture) {
    if (!this.part) return;
    if (this.draws)
      drawBrush(
        g,
        this.at,
        this.diameter(),
        this.line,
        this.overlay,
        this.part.kind === 'edge' ? 0 : this.brush['mask.brush.softness'] / 100,
      );
    else draw(g, this.part, this.frame.original, (p) => this.toScreen(p), this.held?.name, picture);
  }
}
