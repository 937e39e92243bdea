// Numbers as controls write and read them, and their places on a track. A range is
// { low, high, step, decimals, scale, unit, signed }.

export function written({ decimals, unit, signed }, v) {
  const digits = Math.abs(v).toFixed(decimals);
  const sign = Number(digits) === 0 ? '' : v < 0 ? '−' : signed ? '+' : '';
  return sign + digits + (unit ? ` ${unit}` : '');
}

const spread = ({ scale }, v) => (scale === 'reciprocal' ? -1 / v : v);
const gathered = ({ scale }, t) => (scale === 'reciprocal' ? -1 / t : t);
const clamped = (v, low, high) => Math.min(high, Math.max(low, v));

// place of a value on its track, 0..1, and back
export function place(range, v) {
  const [low, high] = [range.low, range.high].map((x) => spread(range, x));
  return clamped((spread(range, v) - low) / (high - low), 0, 1);
}

export function valueAt(range, p) {
  const [low, high] = [range.low, range.high].map((x) => spread(range, x));
  return gathered(range, low + (high - low) * clamped(p, 0, 1));
}

export function rounded(range, v, step = range.step) {
  return clamped(Number((Math.round(v / step) * step).toFixed(6)), range.low, range.high);
}

// how near to the own value a drag catches, as a share of the track
const NOTCH = 0.01;

// the value for a place on the track: a tenth of the step when fine, and the own value where it lies near
export function dragged(range, p, own, { fine = false, free = false } = {}) {
  if (!free && Math.abs(p - place(range, own)) < NOTCH) return own;
  return rounded(range, valueAt(range, p), fine ? range.step / 10 : range.step);
}

// one press of a key or notch of the wheel
export function stepped(range, v, way, { fine = false, coarse = false } = {}) {
  const step = range.step * (fine ? 0.1 : coarse ? 10 : 1);
  return rounded(range, v + way * step, Math.min(step, range.step));
}

// "1/3", "0.1", "x1.5" (of what it is now), "5400 K": what a person types
export function typed(text, now, unit) {
  let t = text.trim().replace(/−/g, '-').replace(',', '.');
  if (unit && t.endsWith(unit)) t = t.slice(0, -unit.length).trim();
  const number = (s) => {
    const parts = s.split('/');
    const value = parts.length === 2 ? Number(parts[0]) / Number(parts[1]) : Number(s);
    return s.trim() === '' ? NaN : value;
  };
  return /^[x×*]/.test(t) ? now * number(t.slice(1)) : number(t);
}
