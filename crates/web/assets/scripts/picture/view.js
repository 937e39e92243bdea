// The picture on the canvas: zoom steps, panning, and one request in flight at a time with the newest state.
import { NO_ANSWER } from '../page/ask.js';
import { declared } from '../page/declared.js';
import { Pace } from './pace.js';

const SMALLEST = 12; // zoom steps are the square root of two apart; 0 is the full size
const MARGIN = 12;
// a picture that nobody touches any more is shown at rest after this long, whatever moved it
const REST_MS = 500;

export class View {
  // `of` is another version of the frame than the one that is being changed: `original`, `stock`, `proof:3`, `kept`
  constructor(canvas, frame, values, told, of = '') {
    Object.assign(this, { canvas, frame, values, told, of });
    this.name = crypto.randomUUID();
    this.sequence = 0;
    this.pace = new Pace();
    this.newest = 0; // the sequence number of the newest picture that arrived
    this.scale = 1; // CSS pixels per full-size pixel
    this.fitted = true;
    this.centre = this.middle();
    this.pictures = {}; // by what they are of, or the one effect that they show
    this.shown = 'developed';
    this.margin = undefined; // of the surround, where it is wider than usual
    this.linked = null; // is told when the picture was moved or zoomed here
    this.over = null; // draws on top of the picture
    this.mount = null; // draws what is round it
    this.overlay = null; // a mask that the application lays over it
    this.masks = undefined; // while they differ from those that are kept
    this.flight = null;
    this.wanted = null;
    this.begun = false; // whether anything was asked for
    this.pressed = false;
    for (const [event, pressed] of [
      ['pointerdown', true],
      ['pointerup', false],
      ['pointercancel', false],
    ]) {
      document.addEventListener(
        event,
        () => {
          this.pressed = pressed;
        },
        { capture: true },
      );
    }
    new ResizeObserver(() => this.resize()).observe(canvas.parentElement);
    this.listen();
    this.resize();
  }

  // ---- geometry

  resize() {
    const box = this.canvas.parentElement.getBoundingClientRect();
    this.ratio = window.devicePixelRatio || 1;
    this.width = Math.max(1, box.width);
    this.height = Math.max(1, box.height);
    this.canvas.width = Math.round(this.width * this.ratio);
    this.canvas.height = Math.round(this.height * this.ratio);
    if (this.fitted) this.fit();
    else this.moved();
  }

  fitScale() {
    const [left, top, right, bottom] = this.frame.mount;
    const margin = this.margin ?? MARGIN;
    return Math.min(
      (this.width - 2 * margin) / (this.frame.width + left + right),
      (this.height - 2 * margin) / (this.frame.height + top + bottom),
      1 / this.ratio,
    );
  }

  fit() {
    this.fitted = true;
    this.scale = this.fitScale();
    this.centre = this.middle();
    this.moved();
  }

  // the middle of the picture in its mount
  middle() {
    const [left, top, right, bottom] = this.frame.mount;
    return [(this.frame.width + right - left) / 2, (this.frame.height + bottom - top) / 2];
  }

  // every full-size pixel on one pixel of the screen
  oneToOne(at) {
    this.zoomTo(1 / this.ratio, at);
  }

  zoomTo(scale, at = [this.width / 2, this.height / 2]) {
    const least = this.fitScale();
    const next = Math.min(8 / this.ratio, Math.max(least, scale));
    const point = this.toFrame(at);
    this.fitted = next <= least * 1.0001;
    this.scale = next;
    this.centre = [point[0] - (at[0] - this.width / 2) / next, point[1] - (at[1] - this.height / 2) / next];
    if (this.fitted) this.fit();
    else this.moved();
  }

  // where a pointer is on the canvas
  pointOf(e) {
    const box = this.canvas.getBoundingClientRect();
    return [e.clientX - box.left, e.clientY - box.top];
  }

  // where the picture lies on the canvas: left, top, width, height
  box() {
    const [w, h] = [this.frame.width * this.scale, this.frame.height * this.scale];
    return [this.width / 2 - this.centre[0] * this.scale, this.height / 2 - this.centre[1] * this.scale, w, h];
  }

  toFrame([x, y]) {
    return [this.centre[0] + (x - this.width / 2) / this.scale, this.centre[1] + (y - this.height / 2) / this.scale];
  }

  pan(dx, dy) {
    this.centre = [this.centre[0] - dx / this.scale, this.centre[1] - dy / this.scale];
    this.moved();
  }

  moved() {
    for (const k of [0, 1]) {
      const size = [this.frame.width, this.frame.height][k];
      const half = [this.width, this.height][k] / 2 / this.scale;
      const edge = MARGIN / this.scale;
      const [before, after] = [this.frame.mount[k], this.frame.mount[k + 2]];
      const low = half - edge - before,
        high = size - half + edge + after;
      this.centre[k] = low > high ? this.middle()[k] : Math.min(high, Math.max(low, this.centre[k]));
    }
    // whole device pixels, so that 1:1 shows each pixel as it is
    if (!this.fitted) {
      const device = this.scale * this.ratio;
      const offset = [this.width, this.height].map((s) => Math.round((s * this.ratio) / 2));
      this.centre = this.centre.map((c, k) => (Math.round(c * device - offset[k]) + offset[k]) / device);
    }
    this.told({ zoom: this.scale * this.ratio, fitted: this.fitted });
    this.draw();
    this.request('settled');
    this.linked?.(this);
  }

  // stands where another view stands
  follow(view) {
    const [a, b] = [this.frame, view.frame];
    const before = [this.scale, ...this.centre];
    this.fitted = view.fitted;
    if (a.width === b.width && a.height === b.height) {
      this.scale = view.scale;
      this.centre = [...view.centre];
    } else if (view.fitted) {
      this.scale = this.fitScale();
      this.centre = this.middle();
    } else {
      this.scale = view.scale;
      this.centre = [(view.centre[0] / b.width) * a.width, (view.centre[1] / b.height) * a.height];
    }
    this.draw();
    // where it stood, its picture is there or on its way
    const there = this.flight || this.pictures[this.key]?.some((picture) => picture.pass === 'settled');
    if (!there || [this.scale, ...this.centre].some((v, k) => v !== before[k])) this.request('settled');
  }

  // the smallest zoom step that still has a pixel for every pixel of the screen
  level() {
    const wanted = this.scale * this.ratio;
    const level = Math.floor(-2 * Math.log2(wanted) + 1e-6);
    return Math.min(SMALLEST, Math.max(0, level));
  }

  levelSize(level) {
    const f = 0.5 ** (level / 2);
    return [this.frame.width, this.frame.height].map((s) => Math.max(1, Math.round(s * f)));
  }

  // the visible rectangle in pixels of a zoom step
  region(level) {
    const [w, h] = this.levelSize(level);
    const [left, top] = this.toFrame([0, 0]);
    const [right, bottom] = this.toFrame([this.width, this.height]);
    const fx = w / this.frame.width,
      fy = h / this.frame.height;
    const x = Math.max(0, Math.floor(left * fx)),
      y = Math.max(0, Math.floor(top * fy));
    return [
      x,
      y,
      Math.max(1, Math.min(w, Math.ceil(right * fx)) - x),
      Math.max(1, Math.min(h, Math.ceil(bottom * fy)) - y),
    ];
  }

  // ---- what is asked for

  setValues(values, id, moving) {
    this.values = values;
    this.forgetSettled = true;
    this.request(moving ? (declared.seenInGrain.includes(id) ? 'grain' : 'quick') : 'settled');
  }

  // another version, or the one that is being changed
  showVersion(of) {
    if (this.of === of) return;
    this.of = of;
    this.draw();
    this.request('settled');
  }

  // what was made is out of date
  forget() {
    this.pictures = {};
    this.flight?.abort.abort();
    this.flight = null;
  }

  get key() {
    return this.of || this.shown;
  }

  // `developed`, or one effect alone
  show(what) {
    if (this.shown === what) return;
    this.shown = what;
    this.draw();
    this.request('settled');
  }

  request(pass) {
    this.wanted = { pass, shown: this.shown, of: this.of };
    this.canvas.dataset.settled = 'false';
    clearTimeout(this.resting);
    if (pass !== 'settled') this.resting = setTimeout(() => this.rest(pass), REST_MS);
    this.go();
  }

  // what was moved and brought back, or given up, settles too
  rest(pass) {
    if (this.pressed) this.resting = setTimeout(() => this.rest(pass), REST_MS);
    else this.request('settled');
  }

  async go() {
    // a settled render in flight is overtaken, a quick one is let finish so that a moving control keeps giving pictures
    if (this.flight) {
      if (this.flight.pass !== 'settled') return;
      this.flight.abort.abort();
    }
    let wanted = this.wanted;
    if (!wanted) return;
    this.wanted = null;
    // nothing is there yet: a quick picture stands first, once
    if (wanted.pass === 'settled' && !this.begun && wanted.shown === 'developed') {
      this.wanted = wanted;
      wanted = { ...wanted, pass: 'quick' };
    }
    this.begun = true;
    const level = this.level();
    const body = {
      view: this.name,
      sequence: ++this.sequence,
      values: this.values,
      off: this.frame.off,
      level,
      region: this.fitted ? null : this.region(level),
      pass: wanted.pass,
      coarser: wanted.pass === 'quick' ? this.pace.coarser : 0,
      shown: wanted.of === 'original' ? 'original' : wanted.shown,
      of: wanted.of === 'original' ? '' : wanted.of,
      masks: this.masks,
      overlay: wanted.shown === 'developed' && !wanted.of && this.frame.masks[this.overlay] ? this.overlay : null,
    };
    const flight = { pass: wanted.pass, abort: new AbortController(), sequence: body.sequence };
    this.flight = flight;
    this.told({ rendering: true });
    const began = performance.now();
    try {
      const answer = await fetch(`/frames/${this.frame.id}/view`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(body),
        signal: flight.abort.signal,
      });
      if (answer.status === 200) {
        const region = answer.headers.get('x-region').split(',').map(Number);
        const frame = answer.headers.get('x-frame').split(',').map(Number);
        const full = answer.headers.get('x-full').split(',').map(Number);
        const bytes = await answer.blob();
        if (wanted.pass === 'quick') this.pace.took(performance.now() - began);
        // the next picture of a moving control is made while this one is unpacked and drawn
        const goesOn = this.wanted && this.wanted.pass !== 'settled';
        if (flight === this.flight && wanted.pass !== 'settled' && goesOn) {
          this.flight = null;
          this.go();
        }
        const bitmap = await createImageBitmap(bytes);
        if (body.sequence > this.newest) {
          this.newest = body.sequence;
          this.reframed(full);
          this.arrived({ bitmap, region, frame, level, pass: wanted.pass, key: wanted.of || wanted.shown });
        }
      } else if (answer.status !== 204) {
        this.told({ problem: await answer.text() });
      }
    } catch (error) {
      if (error.name !== 'AbortError') this.told({ problem: NO_ANSWER });
    }
    if (flight === this.flight) {
      this.flight = null;
      this.told({ rendering: false });
      if (this.wanted) this.go();
    }
  }

  // a format, a crop or a turn has changed the picture's size
  reframed([width, height, ...rest]) {
    const [slack, film, corner] = [0, 2, 4].map((k) => rest.slice(k, k + 2));
    const mount = rest.slice(6, 10);
    const mounted = mount.some((side, k) => side !== this.frame.mount[k]);
    const moved = corner.some((v, k) => v !== this.frame.corner[k]);
    Object.assign(this.frame, { slack, film, corner, mount });
    if (moved || width !== this.frame.width || height !== this.frame.height)
      queueMicrotask(() => this.told({ framed: true }));
    if (width === this.frame.width && height === this.frame.height) {
      if (mounted && this.fitted) this.fit();
      return;
    }
    this.frame.width = width;
    this.frame.height = height;
    this.pictures = {};
    if (this.fitted) {
      this.scale = this.fitScale();
      this.centre = this.middle();
      this.told({ zoom: this.scale * this.ratio, fitted: true });
    } else this.moved();
  }

  arrived(picture) {
    const list = picture.key;
    const whole = picture.region[2] === picture.frame[0] && picture.region[3] === picture.frame[1];
    // the whole frame stays underneath, so that panning never blanks
    const under = whole ? [] : (this.pictures[list] ?? []).filter((p) => p.whole).slice(0, 1);
    this.pictures[list] = [...under, { ...picture, whole }];
    this.draw();
    if (picture.pass === 'settled' && !this.wanted && picture.level !== this.level()) {
      this.request('settled');
      return;
    }
    if (picture.pass === 'settled' && !this.wanted) {
      this.canvas.dataset.settled = 'true';
      this.canvas.dataset.level = picture.level;
      this.canvas.dataset.shown = list;
      this.told({ settled: list });
    }
    this.mount?.follow(this.values);
    this.canvas.dataset.drawn = +(this.canvas.dataset.drawn ?? 0) + 1;
  }

  // ---- drawing

  draw() {
    const g = this.canvas.getContext('2d');
    g.setTransform(this.ratio, 0, 0, this.ratio, 0, 0);
    g.clearRect(0, 0, this.width, this.height);
    const pictures = this.pictures[this.key] ?? this.pictures.developed ?? [];
    for (const p of pictures) {
      const fx = (this.frame.width / p.frame[0]) * this.scale,
        fy = (this.frame.height / p.frame[1]) * this.scale;
      const x = this.width / 2 + p.region[0] * fx - this.centre[0] * this.scale;
      const y = this.height / 2 + p.region[1] * fy - this.centre[1] * this.scale;
      g.imageSmoothingEnabled = fx * this.ratio < 0.999 || p.level > 0;
      g.imageSmoothingQuality = p.pass === 'settled' ? 'high' : 'low';
      g.drawImage(p.bitmap, x, y, p.region[2] * fx, p.region[3] * fy);
    }
    if (pictures.length) {
      const box = this.box();
      if (!this.of) this.mount?.paint(g, ...box);
      // what takes the whole place for itself has edges of its own
      if (!this.over?.(g, ...box)) this.edge(g);
    }
  }

  edge(g) {
    const [left, top, right, bottom] = this.frame.mount;
    const [x, y, w, h] = this.box();
    const [l, t, r, b] = [left, top, right, bottom].map((side) => side * this.scale);
    g.strokeStyle = 'rgba(0,0,0,.45)';
    g.strokeRect(x - l - 0.5, y - t - 0.5, w + l + r + 1, h + t + b + 1);
  }

  // ---- pointer

  listen() {
    const c = this.canvas;
    const at = (e) => this.pointOf(e);
    const pointers = new Map();
    let pinch = null;
    c.addEventListener(
      'wheel',
      (e) => {
        e.preventDefault();
        this.zoomTo(this.scale * 2 ** (-e.deltaY / 240), at(e));
      },
      { passive: false },
    );
    c.addEventListener('dblclick', (e) => (this.fitted ? this.oneToOne(at(e)) : this.fit()));
    c.addEventListener('pointerdown', (e) => {
      if (e.button !== 0) return;
      c.setPointerCapture(e.pointerId);
      pointers.set(e.pointerId, [e.clientX, e.clientY]);
      if (pointers.size === 2) pinch = this.spread(pointers);
    });
    c.addEventListener('pointermove', (e) => {
      this.pointer = at(e);
      const last = pointers.get(e.pointerId);
      if (!last) return;
      pointers.set(e.pointerId, [e.clientX, e.clientY]);
      if (pinch) {
        const now = this.spread(pointers);
        this.zoomTo((this.scale * now) / pinch, at(e));
        pinch = now;
      } else if (!this.fitted) {
        c.classList.add('ag-grabbing');
        this.pan(e.clientX - last[0], e.clientY - last[1]);
      }
    });
    const up = (e) => {
      pointers.delete(e.pointerId);
      pinch = null;
      c.classList.remove('ag-grabbing');
    };
    c.addEventListener('pointerup', up);
    c.addEventListener('pointercancel', up);
    c.addEventListener('pointerleave', () => {
      this.pointer = undefined;
    });
  }

  spread(pointers) {
    const [a, b] = [...pointers.values()];
    return Math.hypot(a[0] - b[0], a[1] - b[1]);
  }
}
