// The test strip: bands of the picture that differ in one value, and the ring-around, small prints that differ in two.
// What is taken is one step of the history.
import { written } from '../controls/numbers.js';
import { declared } from '../page/declared.js';
import { say } from '../page/messages.js';
import { paintStrip } from './paint.js';
import { firstStep, laidOut, shownIn, snapped, valuesRound } from './bands.js';

const $ = (id) => document.getElementById(id);
const MARGIN = 34; // round the picture, for captions
const AT_ONCE = 2; // bands that are asked for together
const FILTERS = ['print.filter.magenta', 'print.filter.yellow'];
const rangeOf = (id) => declared.ranges[id];

export class Strip {
  // `take(values)` keeps values as one step; `started()` clears the picture for it
  constructor({ frame, view, values, own, take, started }) {
    Object.assign(this, { frame, view, values, own, take, started });
    this.on = false;
    this.kind = 'across';
    this.count = 7;
    this.sequence = 0;
    this.cells = [];
    document.addEventListener('keydown', (e) => this.key(e), { capture: true });
    document.addEventListener('click', (e) => this.click(e));
    document.addEventListener('change', (e) => this.change(e));
    view.canvas.addEventListener('pointermove', (e) => this.hover(e));
    view.canvas.addEventListener('pointerleave', () => this.hover(null));
    view.canvas.addEventListener('click', (e) => {
      const cell = this.on ? this.cellAt(view.pointOf(e)) : null;
      if (cell !== null) this.taken(cell);
    });
  }

  // ---- opening and leaving

  // of a control that stands on the bench; as a ring with a second one
  open(control, ring = false) {
    const id = control?.dataset.control ?? (ring ? FILTERS[0] : undefined);
    const d = control?.dataset;
    const range = d?.low === undefined ? rangeOf(id) : { ...rangeOf(id), ...this.rangeFrom(control) };
    if (!id || !range || range.low === undefined) {
      say('Put the focus on a control with a number, then press T.');
      return;
    }
    this.axes = [this.axis(id, range)];
    this.kind = ring ? 'ring' : this.kind === 'ring' ? 'across' : this.kind;
    this.count = ring ? 9 : Math.min(this.count, 7);
    if (ring) this.axes.push(this.second(id));
    this.place = this.view.pointer ? this.shareOf(this.view.pointer) : [0.5, 0.5];
    this.on = true;
    this.opener = document.activeElement;
    this.started();
    this.view.margin = MARGIN;
    this.view.fit();
    $('ag-app').classList.add('ag-stripping');
    $('ag-strip').hidden = false;
    this.build();
    $('ag-strip-bands').focus();
  }

  // of a control that is not declared by its id, such as a sheet's
  rangeFrom({ dataset: d }) {
    const numbers = { low: +d.low, high: +d.high, step: +d.step, decimals: +d.decimals };
    return { ...numbers, unit: d.unit, signed: d.signed === 'true' };
  }

  axis(id, range = rangeOf(id)) {
    const label = document.querySelector(`[data-control="${CSS.escape(id)}"] > label`)?.textContent;
    const whole = { ...range, label: range.label ?? label ?? rangeOf(id)?.label ?? id };
    const shown = document.querySelector(`.ag-ctl[data-control="${CSS.escape(id)}"]`);
    const now = shown ? +shown.dataset.value : (this.values()[id] ?? this.own(id));
    return { id, range: whole, now, by: firstStep(whole), middle: now };
  }

  // filtration goes round magenta and yellow; anything else with another control of its station
  second(first) {
    const others = this.others(first);
    const id = FILTERS.includes(first) ? FILTERS.find((f) => f !== first) : others.find((o) => o !== first);
    return this.axis(id);
  }

  others(first) {
    const station = first.split('.')[0];
    const ids = Object.keys(this.frame.own).filter((id) => id.startsWith(`${station}.`) && id !== first);
    return ids.filter((id) => rangeOf(id) && !id.endsWith('.seed'));
  }

  leave() {
    if (!this.on) return;
    this.on = false;
    this.sequence += 1;
    this.cells = [];
    $('ag-app').classList.remove('ag-stripping');
    $('ag-strip').hidden = true;
    this.view.margin = undefined;
    this.view.fit();
    (this.opener?.isConnected ? this.opener : this.view.canvas).focus();
  }

  // ---- what is laid

  build() {
    const { kind, axes } = this;
    const side = kind === 'ring' ? Math.round(Math.sqrt(this.count)) : this.count;
    const along = axes.map(({ middle, by, range }) => valuesRound(middle, by, side, range));
    const combined = axes.length > 1 ? along[1].flatMap((b) => along[0].map((a) => [a, b])) : along[0].map((a) => [a]);
    const rects = laidOut(kind, combined.length, this.view.box().slice(2));
    this.cells = combined.map((values, i) => ({
      values: Object.fromEntries(values.map((v, k) => [axes[k].id, v])),
      caption: this.captionOf(values),
      now: values.every((v, k) => Math.abs(v - axes[k].now) < axes[k].range.step / 2),
      rect: rects[i],
      shown: shownIn(kind, rects[i], this.place),
      bitmap: null,
    }));
    const near = this.cells.map(({ values }) => axes.reduce((s, a) => s + Math.abs(values[a.id] - a.middle) / a.by, 0));
    this.pick = near.indexOf(Math.min(...near));
    this.panel();
    this.render();
  }

  // with its names where there are two and room for them
  captionOf(values) {
    const named = values.length > 1 && this.count < 25;
    const one = ({ range }, v) => (named ? `${range.label} ${written(range, v)}` : written(range, v));
    return values.map((v, k) => one(this.axes[k], v)).join(', ');
  }

  async render() {
    const sequence = ++this.sequence;
    this.began = performance.now();
    const waiting = [...this.cells.keys()];
    const work = async () => {
      while (waiting.length && sequence === this.sequence) await this.band(waiting.shift(), sequence);
    };
    $('ag-strip').dataset.ready = 'false';
    await Promise.all(Array.from({ length: AT_ONCE }, work));
    if (sequence !== this.sequence) return;
    $('ag-strip').dataset.ready = 'true';
    $('ag-strip').dataset.took = Math.round(performance.now() - this.began);
  }

  // the zoom step and the rectangle of one cell
  partOf({ rect, shown }) {
    const per = rect[2] / shown[2];
    const wanted = this.view.scale * this.view.ratio * per;
    const level = Math.min(12, Math.max(0, Math.floor(-2 * Math.log2(wanted) + 1e-6)));
    const [w, h] = this.view.levelSize(level);
    const [x, y] = [Math.floor(shown[0] * w), Math.floor(shown[1] * h)];
    const [right, bottom] = [Math.ceil((shown[0] + shown[2]) * w), Math.ceil((shown[1] + shown[3]) * h)];
    return { level, region: [x, y, Math.min(w, right) - x, Math.min(h, bottom) - y], size: [w, h] };
  }

  async band(i, sequence) {
    const cell = this.cells[i];
    const { level, region, size } = this.partOf(cell);
    const body = {
      view: `${this.view.name.slice(0, 40)}-strip-${i}`,
      sequence,
      values: { ...this.values(), ...cell.values },
      off: this.frame.off,
      level,
      region,
      pass: 'settled',
    };
    const answer = await fetch(`/frames/${this.frame.id}/view`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    }).catch(() => null);
    if (answer?.status !== 200 || sequence !== this.sequence) return;
    cell.bitmap = await createImageBitmap(await answer.blob());
    cell.part = [region[0] / size[0], region[1] / size[1], region[2] / size[0], region[3] / size[1]];
    this.view.draw();
  }

  // ---- on the picture

  shareOf([x, y]) {
    const [left, top, w, h] = this.view.box();
    return [(x - left) / w, (y - top) / h];
  }

  cellAt(point) {
    const [px, py] = this.shareOf(point);
    const i = this.cells.findIndex(({ rect: [x, y, w, h] }) => px >= x && px < x + w && py >= y && py < y + h);
    return i < 0 ? null : i;
  }

  hover(e) {
    if (!this.on) return;
    const over = e ? this.cellAt(this.view.pointOf(e)) : null;
    if (over !== null && over !== this.pick) this.choose(over);
  }

  // its cells lie apart, not as one picture
  get isApart() {
    return this.kind === 'patch' || this.kind === 'ring';
  }

  paint(g, ...box) {
    paintStrip(g, box, this);
  }

  // ---- the panel

  panel() {
    const [first, second] = this.axes;
    const ring = this.kind === 'ring';
    $('ag-strip-title').textContent = ring ? 'Ring-around' : 'Test strip';
    $('ag-strip-of').textContent = first.range.label;
    $('ag-strip-now').textContent = `now ${written(first.range, first.now)}`;
    $('ag-strip-step').value = written({ ...first.range, signed: false }, first.by);
    $('ag-strip-secondbox').hidden = !ring;
    if (second) {
      $('ag-strip-step2').value = written({ ...second.range, signed: false }, second.by);
      const options = this.others(first.id).map(
        (id) => new Option(rangeOf(id).label, id, id === second.id, id === second.id),
      );
      $('ag-strip-second').replaceChildren(...options);
    }
    for (const b of document.querySelectorAll('[data-strip-kind]'))
      b.setAttribute('aria-pressed', b.dataset.stripKind === this.kind);
    for (const b of document.querySelectorAll('[data-strip-count]')) {
      b.hidden = (+b.dataset.stripCount > 7 || b.dataset.stripCount === '9') !== ring;
      b.setAttribute('aria-pressed', +b.dataset.stripCount === this.count);
    }
    const list = $('ag-strip-bands');
    list.style.setProperty('--side', ring ? Math.round(Math.sqrt(this.cells.length)) : 1);
    list.replaceChildren(
      ...this.cells.map((cell, i) => {
        const option = document.createElement('div');
        Object.assign(option, { id: `ag-band-${i}`, className: 'ag-band num', textContent: cell.caption });
        option.setAttribute('role', 'option');
        option.dataset.band = i;
        if (cell.now) option.append(' (now)');
        return option;
      }),
    );
    this.choose(this.pick);
  }

  choose(i) {
    this.pick = i;
    const list = $('ag-strip-bands');
    [...list.children].forEach((option, k) => option.setAttribute('aria-selected', k === i));
    list.setAttribute('aria-activedescendant', `ag-band-${i}`);
    list.children[i]?.scrollIntoView({ block: 'nearest' });
    $('ag-strip-take').textContent = `Take ${this.cells[i].caption}`;
    this.view.draw();
  }

  taken(i) {
    const { values, now } = this.cells[i];
    this.leave();
    if (!now) this.take(values);
  }

  // half the step, round what is picked
  finer(factor = 0.5) {
    const { values } = this.cells[this.pick];
    for (const axis of this.axes) {
      const most = (axis.range.high - axis.range.low) / 2;
      axis.by = snapped(Math.min(axis.by * factor, most), axis.range.step);
      axis.middle = values[axis.id];
    }
    this.build();
  }

  lay(kind) {
    if (kind === 'ring' && this.axes.length < 2) this.axes.push(this.second(this.axes[0].id));
    if (kind !== 'ring') this.axes.length = 1;
    if ((kind === 'ring') !== (this.kind === 'ring')) this.count = kind === 'ring' ? 9 : 7;
    this.kind = kind;
    this.build();
  }

  click(e) {
    if (!this.on) return;
    const at = (what) => e.target.closest(what);
    if (at('[data-strip-kind]')) this.lay(at('[data-strip-kind]').dataset.stripKind);
    if (at('[data-strip-count]')) {
      this.count = +at('[data-strip-count]').dataset.stripCount;
      this.build();
    }
    if (at('[data-band]')) this.taken(+at('[data-band]').dataset.band);
    if (at('#ag-strip-take')) this.taken(this.pick);
    if (at('#ag-strip-finer')) this.finer();
    if (at('#ag-strip-leave')) this.leave();
  }

  change(e) {
    if (!this.on) return;
    const axis = { 'ag-strip-step': 0, 'ag-strip-step2': 1 }[e.target.id];
    if (axis !== undefined) {
      const by = Math.abs(parseFloat(e.target.value.replace(',', '.').replace('−', '-')));
      const { range } = this.axes[axis];
      if (by > 0) this.axes[axis].by = snapped(Math.min(by, (range.high - range.low) / 2), range.step);
      this.build();
    }
    if (e.target.id === 'ag-strip-second') {
      this.axes[1] = this.axis(e.target.value);
      this.build();
    }
  }

  key(e) {
    if (!this.on || document.querySelector('.modal.show')) return;
    const typing = e.target.closest?.('input, select');
    const side = this.kind === 'ring' ? Math.round(Math.sqrt(this.cells.length)) : 1;
    const to = (by) => () => this.choose(Math.min(this.cells.length - 1, Math.max(0, this.pick + by)));
    const act = {
      Escape: () => this.leave(),
      ...(typing
        ? {}
        : {
            Enter: e.target.closest?.('button') ? undefined : () => this.taken(this.pick),
            ArrowLeft: to(-1),
            ArrowRight: to(1),
            ArrowUp: to(-side),
            ArrowDown: to(side),
            KeyT: () => this.leave(),
            KeyF: () => this.finer(),
            Equal: () => this.finer(2),
            NumpadAdd: () => this.finer(2),
            Minus: () => this.finer(),
            NumpadSubtract: () => this.finer(),
          }),
    }[e.code];
    const passes = ['Tab', 'Space', 'Enter'].includes(e.code) || e.ctrlKey || e.metaKey;
    if (act) {
      act();
      e.preventDefault();
    }
    // this mode has the keys; Tab, and what a button or a field does, stay theirs
    if (act || !(passes || typing)) e.stopPropagation();
  }
}
