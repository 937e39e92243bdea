// The points of a tone curve: read, written, checked, moved; and the curve as it is drawn. In and out in per cent.
export const MOST = 16;
// points stay this far apart
const APART = 0.5;

const clamped = (v, low = 0, high = 100) => Math.min(high, Math.max(low, v));
export const rounded = (v) => Math.round(v * 10) / 10;

export const read = (text) =>
  text
    .trim()
    .split(/\s+/)
    .map((w) => w.split(',').map(Number));
export const write = (points) => points.map((p) => p.map(rounded).join(',')).join(' ');
export const straight = (points) => write(points) === '0,0 100,100';

export function sound(points) {
  const inside = (p) => p.length === 2 && p.every((v) => Number.isFinite(v) && v >= 0 && v <= 100);
  const rising = points.every((p, i) => i === 0 || p[0] > points[i - 1][0]);
  return points.length >= 2 && points.length <= MOST && points.every(inside) && rising;
}

// a point moved, between its neighbours
export function moved(points, i, [px, py]) {
  const low = i > 0 ? points[i - 1][0] + APART : 0;
  const high = i + 1 < points.length ? points[i + 1][0] - APART : 100;
  return points.map((p, k) => (k === i ? [clamped(px, low, high), clamped(py)] : p));
}

// The pieces of a monotone cubic through the points, as [from, first handle, second handle, to]. The drawing only: the
// print itself is computed by the application.
export function pieces(points) {
  const slope = points.slice(1).map((p, i) => (p[1] - points[i][1]) / (p[0] - points[i][0]));
  const tangent = points.map((_, i) => {
    if (i === 0) return slope[0];
    if (i === points.length - 1) return slope[i - 1];
    return slope[i - 1] * slope[i] <= 0 ? 0 : (2 * slope[i - 1] * slope[i]) / (slope[i - 1] + slope[i]);
  });
  return points.slice(1).map((b, i) => {
    const a = points[i];
    const h = (b[0] - a[0]) / 3;
    return [a, [a[0] + h, a[1] + tangent[i] * h], [b[0] - h, b[1] - tangent[i + 1] * h], b];
  });
}
