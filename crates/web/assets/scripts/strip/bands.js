// The bands of a test strip and the cells of a ring-around: their values, and where each lies on the picture.

const NICE = [1, 2, 2.5, 5];

// a step that a person would choose, a sixteenth of the range or so
export function firstStep({ low, high, step }) {
  const about = (high - low) / 16;
  const power = 10 ** Math.floor(Math.log10(about));
  const nice = NICE.map((n) => n * power)
    .reverse()
    .find((n) => n <= about * 1.0001);
  return snapped(Math.max(nice ?? power, step), step);
}

// a multiple of what the control can show, never none
export const snapped = (v, step) => Number((Math.max(1, Math.round(v / step)) * step).toFixed(6));

// `count` values a step apart, the one in the middle where there is room on both sides
export function valuesRound(middle, by, count, { low, high, step }) {
  const all = Math.floor((high - low) / by + 1e-9) + 1;
  const n = Math.min(count, all);
  const half = Math.floor(n / 2);
  const on = Number((Math.round(middle / step) * step).toFixed(6));
  const first = Math.min(Math.max(on - half * by, low), high - (n - 1) * by);
  return Array.from({ length: n }, (_, i) => Number((first + i * by).toFixed(6)));
}

// cells over a picture of a size in CSS pixels: [x, y, width, height] in its shares; `gap` leaves room for words
export function laidOut(kind, count, [width, height]) {
  if (kind === 'across') return Array.from({ length: count }, (_, i) => [i / count, 0, 1 / count, 1]);
  if (kind === 'down') return Array.from({ length: count }, (_, i) => [0, i / count, 1, 1 / count]);
  if (kind === 'patch') {
    const gap = 4 / width;
    const w = (1 - gap * (count - 1)) / count;
    return Array.from({ length: count }, (_, i) => [i * (w + gap), 0, w, 1]);
  }
  const [side, words, gap] = [Math.round(Math.sqrt(count)), 18 / height, 6 / width];
  const w = (1 - gap * (side - 1)) / side;
  const h = (1 - words * side) / side;
  // every cell has the shape of the picture
  const k = Math.min(w, h);
  const [left, top] = [(1 - side * k - gap * (side - 1)) / 2, (1 - side * (k + words)) / 2];
  return Array.from({ length: count }, (_, i) => {
    const [column, row] = [i % side, Math.floor(i / side)];
    return [left + column * (k + gap), top + row * (k + words), k, k];
  });
}

// the part of the picture that a cell shows, in the picture's shares
export function shownIn(kind, [x, y, w, h], [px, py]) {
  if (kind === 'across' || kind === 'down') return [x, y, w, h];
  if (kind !== 'patch') return [0, 0, 1, 1];
  const clamp = (v, most) => Math.min(Math.max(v, 0), most);
  return [clamp(px - w / 2, 1 - w), clamp(py - h / 2, 1 - h), w, h];
}
