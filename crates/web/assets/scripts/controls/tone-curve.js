// A tone curve by its points: dragged, moved by keys, typed. In and out in per cent, black at the lower left.
import { ask } from '../page/ask.js';
import { el } from '../page/svg.js';
import { MOST, moved, pieces, read, rounded, sound, straight, write } from './curve-points.js';

const [WIDTH, HEIGHT] = [470, 104];
const [LEFT, RIGHT, TOP, FOOT] = [8, 462, 6, 98];
const x = (v) => LEFT + ((RIGHT - LEFT) * v) / 100;
const y = (v) => FOOT - ((FOOT - TOP) * v) / 100;
const clamp = (v) => Math.min(100, Math.max(0, v));

function path(points) {
  const at = ([a, b]) => `${x(a)} ${y(b)}`;
  const bends = pieces(points).map(([, first, second, to]) => `C${at(first)} ${at(second)} ${at(to)}`);
  return `M${LEFT} ${y(points[0][1])}L${at(points[0])}${bends.join('')}L${RIGHT} ${y(points.at(-1)[1])}`;
}

// the tones that a station's curves bend, by station: shares for master, red, green, blue
const spreads = {};
const CHANNELS = ['master', 'red', 'green', 'blue'];

// Loads the spread behind the curves that are on the bench, under the values in force.
export async function loadSpreads({ id, off }, values) {
  const curve = document.querySelector('[data-curve]');
  if (!curve) return;
  const station = curve.dataset.curve.split('.')[0];
  const answer = await ask(`/frames/${id}/tones/${station}`, { json: { values, off }, quiet: true });
  if (!answer) return;
  spreads[station] = await answer.json();
  document.querySelectorAll(`[data-curve^="${station}."]`).forEach(paintSpread);
}

function paintSpread(c) {
  const [station, , channel] = c.dataset.curve.split('.');
  const shares = spreads[station]?.[CHANNELS.indexOf(channel)];
  const ground = c.querySelector('[data-spread]');
  if (!shares || !ground) return;
  const most = Math.max(...shares, 1e-9);
  const step = 100 / shares.length;
  const points = shares.map((s, i) => `L${x((i + 0.5) * step)} ${y(72 * Math.sqrt(s / most))}`).join('');
  ground.setAttribute('d', `M${LEFT} ${FOOT}${points}L${RIGHT} ${FOOT}Z`);
}

export function paintCurves(root = document) {
  root.querySelectorAll('[data-curve]').forEach((c) => paint(c));
}

function knotAt([across, up], i) {
  return el('circle', {
    tabindex: 0,
    role: 'slider',
    'aria-label': `Point ${i + 1}`,
    'aria-valuenow': up,
    'aria-valuemin': 0,
    'aria-valuemax': 100,
    'aria-valuetext': `${across} to ${up} per cent`,
    'data-point': i,
    cx: x(across),
    cy: y(up),
    r: 4.5,
  });
}

function paint(c) {
  const points = read(c.dataset.value);
  const svg = c.querySelector('svg');
  const focused = document.activeElement?.dataset?.point;
  const inside = svg.contains(document.activeElement);
  const line = (d, attributes) => el('path', { d, ...attributes });
  const grid = [25, 50, 75].map((v) => line(`M${x(v)} ${TOP}V${FOOT}M${LEFT} ${y(v)}H${RIGHT}`, { stroke: '#333' }));
  const knots = points.map((p, i) => knotAt(p.map(rounded), i));
  svg.innerHTML = [
    el('rect', { x: LEFT, y: TOP, width: RIGHT - LEFT, height: FOOT - TOP, fill: '#181818' }),
    el('path', { 'data-spread': '', fill: '#3c3c3c' }),
    ...grid,
    line(`M${LEFT} ${FOOT}L${RIGHT} ${TOP}`, { stroke: '#7a7a7a', 'stroke-dasharray': '2 3' }),
    line(path(points), { fill: 'none', stroke: straight(points) ? '#c3c3c1' : 'var(--amber)', 'stroke-width': 1.5 }),
    ...knots,
  ].join('');
  paintSpread(c);
  c.classList.toggle('ag-tuned', !straight(points));
  const field = c.querySelector('input');
  if (document.activeElement !== field) field.value = write(points);
  if (inside && focused !== undefined)
    svg.querySelector(`[data-point="${Math.min(focused, points.length - 1)}"]`)?.focus();
}

export function listenCurves(root, changed, complain) {
  let drag = null;
  const set = (c, points, moving) => {
    c.dataset.value = write(points);
    paint(c);
    changed(
      c.dataset.curve,
      points.map((p) => p.map(rounded)),
      straight(points),
      moving,
    );
  };
  const at = (svg, e) => {
    const box = svg.getBoundingClientRect();
    const scale = Math.min(box.width / WIDTH, box.height / HEIGHT);
    const left = box.left + (box.width - WIDTH * scale) / 2,
      top = box.top + (box.height - HEIGHT * scale) / 2;
    const px = (e.clientX - left) / scale,
      py = (e.clientY - top) / scale;
    return [clamp(((px - LEFT) / (RIGHT - LEFT)) * 100), clamp(((FOOT - py) / (FOOT - TOP)) * 100)];
  };
  root.addEventListener('pointerdown', (e) => {
    const svg = e.target.closest('[data-curve] svg');
    if (!svg || e.button !== 0) return;
    e.preventDefault();
    const c = svg.closest('[data-curve]');
    const points = read(c.dataset.value);
    const where = at(svg, e);
    let i = points.findIndex((p) => Math.hypot(p[0] - where[0], p[1] - where[1]) < 6);
    const start = c.dataset.value;
    if (i < 0) {
      if (points.length >= MOST) {
        complain(`A curve takes ${MOST} points at most.`);
        return;
      }
      i = points.findIndex((p) => p[0] > where[0]);
      if (i < 0) i = points.length;
      points.splice(i, 0, where);
      if (!sound(points)) return;
      set(c, points, true);
    }
    svg.setPointerCapture(e.pointerId);
    drag = { c, svg, i, start };
    svg.querySelector(`[data-point="${i}"]`)?.focus({ focusVisible: false });
  });
  root.addEventListener('pointermove', (e) => {
    if (drag) set(drag.c, moved(read(drag.c.dataset.value), drag.i, at(drag.svg, e)), true);
  });
  const release = () => {
    if (!drag) return;
    const { c, start } = drag;
    drag = null;
    if (c.dataset.value !== start) set(c, read(c.dataset.value), false);
  };
  // Escape in the middle of a drag gives the curve back
  root.addEventListener(
    'keydown',
    (e) => {
      if (e.key !== 'Escape' || !drag) return;
      const { c, start } = drag;
      drag = null;
      if (c.dataset.value !== start) set(c, read(start), true);
      e.stopImmediatePropagation();
    },
    { capture: true },
  );
  root.addEventListener('pointerup', release);
  root.addEventListener('pointercancel', release);

  const drop = (c, i) => {
    const points = read(c.dataset.value);
    if (points.length <= 2) {
      set(
        c,
        [
          [0, 0],
          [100, 100],
        ],
        false,
      );
      return;
    }
    points.splice(i, 1);
    set(c, points, false);
  };
  root.addEventListener('dblclick', (e) => {
    const knot = e.target.closest('[data-curve] circle');
    if (knot) drop(knot.closest('[data-curve]'), +knot.dataset.point);
  });
  root.addEventListener('keydown', (e) => {
    const knot = e.target.closest?.('[data-curve] circle');
    if (!knot) return;
    const c = knot.closest('[data-curve]');
    const points = read(c.dataset.value);
    const i = +knot.dataset.point;
    const step = e.shiftKey ? 0.2 : e.ctrlKey ? 10 : 1;
    const move = { ArrowUp: [0, step], ArrowDown: [0, -step], ArrowLeft: [-step, 0], ArrowRight: [step, 0] }[e.key];
    if (move) set(c, moved(points, i, [points[i][0] + move[0], points[i][1] + move[1]]), 'key');
    else if (e.key === 'Delete') drop(c, i);
    else if (e.key === 'Backspace')
      set(
        c,
        [
          [0, 0],
          [100, 100],
        ],
        false,
      );
    else return;
    e.preventDefault();
    e.stopPropagation();
  });
  root.addEventListener('change', (e) => {
    const field = e.target.closest('[data-curve] > input');
    if (!field) return;
    const c = field.closest('[data-curve]');
    const points = read(field.value);
    if (sound(points)) set(c, points, false);
    else {
      complain('Write points as in,out from left to right, such as 0,0 50,60 100,100.');
      field.value = c.dataset.value;
    }
  });
}
