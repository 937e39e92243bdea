// A tone curve by its points: dragged, moved by keys, typed. In and out in per cent, black at the lower left.
const WIDTH = 470, HEIGHT = 104, LEFT = 8, RIGHT = 462, TOP = 6, FOOT = 98;
const MOST = 16;
const x = (v) => LEFT + ((RIGHT - LEFT) * v) / 100;
const y = (v) => FOOT - ((FOOT - TOP) * v) / 100;
const clamp = (v, low = 0, high = 100) => Math.min(high, Math.max(low, v));
const round = (v) => Math.round(v * 10) / 10;

const read = (text) => text.trim().split(/\s+/).map((w) => w.split(',').map(Number));
const write = (points) => points.map((p) => p.map(round).join(',')).join(' ');
const straight = (points) => write(points) === '0,0 100,100';

function sound(points) {
  return points.length >= 2 && points.length <= MOST
    && points.every((p) => p.length === 2 && p.every((v) => Number.isFinite(v) && v >= 0 && v <= 100))
    && points.every((p, i) => i === 0 || p[0] > points[i - 1][0]);
}

// The drawing only: a monotone cubic through the points. The print itself is computed by the application.
function path(points) {
  const slope = points.slice(1).map((p, i) => (p[1] - points[i][1]) / (p[0] - points[i][0]));
  const tangent = points.map((_, i) => {
    if (i === 0) return slope[0];
    if (i === points.length - 1) return slope[i - 1];
    return slope[i - 1] * slope[i] <= 0 ? 0 : (2 * slope[i - 1] * slope[i]) / (slope[i - 1] + slope[i]);
  });
  let d = `M${LEFT} ${y(points[0][1])}L${x(points[0][0])} ${y(points[0][1])}`;
  for (let i = 0; i + 1 < points.length; i++) {
    const [a, b] = [points[i], points[i + 1]];
    const h = (b[0] - a[0]) / 3;
    d += `C${x(a[0] + h)} ${y(a[1] + tangent[i] * h)} ${x(b[0] - h)} ${y(b[1] - tangent[i + 1] * h)} ${x(b[0])} ${y(b[1])}`;
  }
  return `${d}L${RIGHT} ${y(points.at(-1)[1])}`;
}

// the tones that a station's curves bend, by station: shares for master, red, green, blue
const spreads = {};
const CHANNELS = ['master', 'red', 'green', 'blue'];

// Loads the spread behind the curves that are on the bench, under the values in force.
export async function loadSpreads(frame, values) {
  const curve = document.querySelector('[data-curve]');
  if (!curve) return;
  const station = curve.dataset.curve.split('.')[0];
  const answer = await fetch(`/frames/${frame}/tones/${station}`, {
    method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ values }),
  }).catch(() => null);
  if (!answer?.ok) return;
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

function paint(c) {
  const points = read(c.dataset.value);
  const svg = c.querySelector('svg');
  const focused = document.activeElement?.dataset?.point;
  const inside = svg.contains(document.activeElement);
  const grid = [25, 50, 75].map((v) => `<path d="M${x(v)} ${TOP}V${FOOT}M${LEFT} ${y(v)}H${RIGHT}" stroke="#333"/>`).join('');
  const knots = points.map((p, i) => `<circle tabindex="0" role="slider" aria-label="Point ${i + 1}" aria-valuenow="${round(p[1])}" aria-valuemin="0" aria-valuemax="100" aria-valuetext="${round(p[0])} to ${round(p[1])} per cent" data-point="${i}" cx="${x(p[0])}" cy="${y(p[1])}" r="4.5"/>`).join('');
  svg.innerHTML = `<rect x="${LEFT}" y="${TOP}" width="${RIGHT - LEFT}" height="${FOOT - TOP}" fill="#181818"/><path data-spread fill="#3c3c3c"/>${grid}<path d="M${LEFT} ${FOOT}L${RIGHT} ${TOP}" stroke="#7a7a7a" stroke-dasharray="2 3"/><path d="${path(points)}" fill="none" stroke="${straight(points) ? '#c3c3c1' : 'var(--amber)'}" stroke-width="1.5"/>${knots}`;
  paintSpread(c);
  c.classList.toggle('ag-tuned', !straight(points));
  const field = c.querySelector('input');
  if (document.activeElement !== field) field.value = write(points);
  if (inside && focused !== undefined) svg.querySelector(`[data-point="${Math.min(focused, points.length - 1)}"]`)?.focus();
}

export function listenCurves(root, changed, complain) {
  let drag = null;
  const set = (c, points, moving) => {
    c.dataset.value = write(points);
    paint(c);
    changed(c.dataset.curve, points.map((p) => p.map(round)), straight(points), moving);
  };
  const at = (svg, e) => {
    const box = svg.getBoundingClientRect();
    const scale = Math.min(box.width / WIDTH, box.height / HEIGHT);
    const left = box.left + (box.width - WIDTH * scale) / 2, top = box.top + (box.height - HEIGHT * scale) / 2;
    const px = (e.clientX - left) / scale, py = (e.clientY - top) / scale;
    return [clamp(((px - LEFT) / (RIGHT - LEFT)) * 100), clamp(((FOOT - py) / (FOOT - TOP)) * 100)];
  };
  const place = (points, i, [px, py]) => {
    const low = i > 0 ? points[i - 1][0] + 0.5 : 0, high = i + 1 < points.length ? points[i + 1][0] - 0.5 : 100;
    points[i] = [clamp(px, low, high), clamp(py)];
    return points;
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
      if (points.length >= MOST) { complain(`A curve takes ${MOST} points at most.`); return; }
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
    if (drag) set(drag.c, place(read(drag.c.dataset.value), drag.i, at(drag.svg, e)), true);
  });
  const release = () => {
    if (!drag) return;
    const { c, start } = drag;
    drag = null;
    if (c.dataset.value !== start) set(c, read(c.dataset.value), false);
  };
  // Escape in the middle of a drag gives the curve back
  root.addEventListener('keydown', (e) => {
    if (e.key !== 'Escape' || !drag) return;
    const { c, start } = drag;
    drag = null;
    if (c.dataset.value !== start) set(c, read(start), true);
    e.stopImmediatePropagation();
  }, { capture: true });
  root.addEventListener('pointerup', release);
  root.addEventListener('pointercancel', release);

  const drop = (c, i) => {
    const points = read(c.dataset.value);
    if (points.length <= 2) { set(c, [[0, 0], [100, 100]], false); return; }
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
    if (move) set(c, place(points, i, [points[i][0] + move[0], points[i][1] + move[1]]), 'key');
    else if (e.key === 'Delete') drop(c, i);
    else if (e.key === 'Backspace') set(c, [[0, 0], [100, 100]], false);
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
