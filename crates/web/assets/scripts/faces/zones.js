// Zone placement: eleven patches on the exposure axis, each dragged sideways to the zone where its tone shall fall.
import { typed } from '../controls/numbers.js';
import { ask } from '../page/ask.js';
import { declared } from '../page/declared.js';
import { el, unitsPerPixel } from '../page/svg.js';
import { placed as placedZones } from './zone-steps.js';

const NAMES = ['0', 'I', 'II', 'III', 'IV', 'V', 'VI', 'VII', 'VIII', 'IX', 'X'];
const LEFT = 8,
  RIGHT = 462; // as the application draws the axis: zones -0.5 to 10.5
const UNIT = (RIGHT - LEFT) / 11;
const METERED = 78,
  PLACED = 103,
  SIDE = 22;
// all zones have one range
const RANGE = declared.ranges?.['scene.zone.5'];
const { high: LIMIT, step: STEP } = RANGE ?? {};
const x = (zone) => LEFT + UNIT * (zone + 0.5);
const grey = (zone) => {
  const v = 8 + Math.round(zone * 23.8);
  return `rgb(${v},${v},${v})`;
};
const written = (v) => `${v < 0 ? '−' : v > 0 ? '+' : ''}${Math.abs(v).toFixed(2)} EV`;

export class Zones {
  // `changed(values, moving)` takes the values of the zones that moved
  constructor({ frame, values, changed }) {
    Object.assign(this, { frame, values, changed });
    this.chosen = 5;
    this.lit = null;
    this.shares = null;
    this.drag = null;
    document.addEventListener('pointerdown', (e) => this.press(e));
    document.addEventListener('pointermove', (e) => this.move(e));
    for (const end of ['pointerup', 'pointercancel']) document.addEventListener(end, () => this.release());
    document.addEventListener('keydown', (e) => this.escape(e), { capture: true });
    document.addEventListener('keydown', (e) => this.key(e));
    document.addEventListener('dblclick', (e) => {
      const zone = this.zoneOf(e.target);
      if (zone !== null) this.rest(this.moved(zone, -this.stops()[zone], true));
    });
    document.addEventListener('focusin', (e) => {
      const zone = this.zoneOf(e.target);
      if (zone !== null && zone !== this.chosen) {
        this.chosen = zone;
        this.field();
      }
    });
    document.addEventListener('change', (e) => {
      if (e.target.closest('.ag-zonefield')) this.take(e.target);
    });
  }

  get box() {
    return document.getElementById('ag-zonesplaced');
  }
  marks() {
    return [...(this.box?.querySelectorAll('[data-zone]') ?? [])];
  }
  stops() {
    return this.marks().map((m) => +m.dataset.value);
  }
  zoneOf(target) {
    const patch = target.closest?.('[data-patch]');
    return patch ? +patch.dataset.patch : null;
  }

  // the curve and the picture's exposures, asked for when the picture rests
  async load() {
    if (!this.box) return;
    const json = { values: this.values(), off: this.frame.off };
    const answer = await ask(`/frames/${this.frame.id}/zones`, { json, quiet: true });
    const found = answer && (await answer.json());
    // the bench may have turned to another station meanwhile
    if (!found || !this.box) return;
    this.ground = found.drawing;
    this.shares = found.shares;
    this.box.dataset.loaded = 'true';
    this.lay();
    this.box.querySelectorAll('.ag-share').forEach((text, zone) => {
      text.textContent = this.share(zone);
    });
  }

  // what lies under the zones
  lay() {
    if (this.ground) this.box.querySelector('.ag-ground').innerHTML = this.ground;
  }

  // of the picture in a zone, in per cent
  share(zone) {
    return this.shares ? Math.round(100 * this.shares[zone]) : '';
  }

  paint() {
    if (!this.box) return;
    const stops = this.stops();
    const held = this.zoneOf(document.activeElement ?? document.body);
    if (!this.box.querySelector('.ag-ground').firstChild) this.lay();
    const metered = stops.map((stop, zone) => this.metered(zone, stop)).join('');
    // tuned patches lie on top, the lit one above all
    const order = stops.map((_, i) => i).sort((a, b) => (stops[a] !== 0) - (stops[b] !== 0) || a - b);
    const patches = order.map((zone) => this.patch(zone, stops[zone])).join('');
    this.box.querySelector('.ag-patches').innerHTML = metered + patches;
    if (held !== null) this.box.querySelector(`[data-patch="${held}"]`)?.focus({ focusVisible: true });
    this.field();
  }

  // a zone as it was metered, and the line to where it is placed
  metered(zone, stop) {
    const [from, to] = [x(zone), x(zone + stop)];
    const box = { x: from - SIDE / 2, y: METERED, width: SIDE, height: 10 };
    return [
      el('text', { x: from, y: 72, 'text-anchor': 'middle', class: 'ag-axis ag-share' }, this.share(zone)),
      el('rect', { ...box, fill: grey(zone), stroke: '#777', 'stroke-width': 0.5 }),
      el('path', { d: `M${from} ${METERED + 10}L${to} ${PLACED}`, stroke: stop ? 'var(--amber)' : '#7a7a7a' }),
    ].join('');
  }

  patch(zone, stop) {
    const to = x(zone + stop);
    const text = (y, kind, words) => el('text', { x: to, y, 'text-anchor': 'middle', class: kind }, words);
    const slider = {
      'data-patch': zone,
      tabindex: 0,
      role: 'slider',
      'aria-label': `Zone ${NAMES[zone]}`,
      'aria-orientation': 'horizontal',
      'aria-valuemin': -LIMIT,
      'aria-valuemax': LIMIT,
      'aria-valuenow': stop,
      'aria-valuetext': `${written(stop)}, stock value 0.00 EV`,
      class: `ag-patch${stop ? ' ag-tuned' : ''}${this.lit === zone ? ' ag-lit' : ''}`,
    };
    return el(
      'g',
      slider,
      el('rect', { x: to - SIDE / 2, y: PLACED, width: SIDE, height: 18, fill: grey(zone) }),
      text(PLACED + 13, zone < 6 ? 'ag-onDark' : 'ag-onLight', NAMES[zone]),
      stop ? text(PLACED + 32, 'ag-moved', written(stop).replace(' EV', '').replace('0.', '.')) : '',
    );
  }

  field() {
    const label = document.querySelector('.ag-zonefield');
    if (!label) return;
    label.querySelector('span').textContent = `Zone ${NAMES[this.chosen]}`;
    const input = label.querySelector('input');
    if (document.activeElement !== input) input.value = written(this.stops()[this.chosen] ?? 0);
  }

  moved(zone, by, alone, start = this.stops()) {
    return placedZones(start, zone, by, { alone, range: RANGE });
  }

  show(stops) {
    const changed = {};
    this.marks().forEach((m, i) => {
      if (+m.dataset.value !== stops[i]) changed[m.dataset.zone] = stops[i];
      m.dataset.value = stops[i];
    });
    this.paint();
    return changed;
  }

  rest(stops) {
    const changed = this.show(stops);
    if (Object.keys(changed).length) this.changed(changed, false);
  }

  press(e) {
    const zone = this.zoneOf(e.target);
    if (zone === null || e.button !== 0) return;
    e.preventDefault();
    const scale = unitsPerPixel(this.box.querySelector('svg'));
    this.chosen = zone;
    this.drag = { zone, x: e.clientX, scale, start: this.stops() };
    this.paint();
    this.box.querySelector(`[data-patch="${zone}"]`)?.focus({ focusVisible: false });
  }

  move(e) {
    if (!this.drag) return;
    const { zone, start, scale } = this.drag;
    const by = ((e.clientX - this.drag.x) * scale) / UNIT;
    const changed = this.show(this.moved(zone, by, e.shiftKey, start));
    if (Object.keys(changed).length) this.changed(changed, true);
  }

  release() {
    if (!this.drag) return;
    const { start } = this.drag;
    this.drag = null;
    const stops = this.stops();
    if (stops.some((s, i) => s !== start[i]))
      this.changed(Object.fromEntries(this.marks().map((m, i) => [m.dataset.zone, stops[i]])), false);
  }

  // what the hand did is given back
  escape(e) {
    if (e.key !== 'Escape' || !this.drag) return;
    const changed = this.show(this.drag.start);
    this.drag = null;
    if (Object.keys(changed).length) this.changed(changed, true);
    e.stopImmediatePropagation();
  }

  key(e) {
    const zone = this.zoneOf(e.target);
    if (zone === null) return;
    const now = this.stops()[zone];
    const step = e.ctrlKey ? 10 * STEP : STEP;
    const by = {
      ArrowRight: step,
      ArrowUp: step,
      ArrowLeft: -step,
      ArrowDown: -step,
      Home: -2 * LIMIT,
      End: 2 * LIMIT,
      Backspace: -now,
    }[e.key];
    if (e.key === 'Enter') {
      const input = document.querySelector('.ag-zonefield input');
      input.focus();
      input.select();
    } else if (by === undefined || (e.key === 'Backspace' && e.shiftKey)) return;
    else {
      const changed = this.show(this.moved(zone, by, e.shiftKey || e.key === 'Backspace'));
      if (Object.keys(changed).length) this.changed(changed, 'key');
    }
    e.preventDefault();
    e.stopPropagation();
  }

  take(input) {
    const now = this.stops()[this.chosen];
    const wanted = typed(input.value.replace(/[−]/g, '-'), now, 'EV');
    input.blur();
    if (Number.isFinite(wanted)) this.rest(this.moved(this.chosen, wanted - now, true));
    this.field();
  }

  // the patch on which a tone of the picture lies, given in stops from mid grey
  light(stops) {
    if (!this.box) return;
    const placed = this.stops().map((s, i) => i - 5 + s);
    this.lit = placed.reduce((best, p, i) => (Math.abs(p - stops) < Math.abs(placed[best] - stops) ? i : best), 0);
    this.chosen = this.lit;
    this.paint();
  }
}
