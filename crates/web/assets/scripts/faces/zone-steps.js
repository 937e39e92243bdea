// Zones placed in stops: a patch may lie on another, but not pass it.

const ROUNDING = 1e-6;

// where all patches lie when one is moved by some stops; its neighbours follow half the way, unless it moves alone
export function placed(start, zone, by, { alone = false, range }) {
  const { high: limit, step } = range;
  const snapped = (v) => Number((Math.round(v / step) * step).toFixed(2));
  const at = (d) =>
    start.map((s, i) => {
      const share = i === zone ? 1 : !alone && Math.abs(i - zone) === 1 ? 0.5 : 0;
      return snapped(Math.min(limit, Math.max(-limit, s + d * share)));
    });
  const apart = (stops, i) => 1 + stops[i] - stops[i - 1];
  const sound = (stops) => stops.every((_, i) => i === 0 || apart(stops, i) > -ROUNDING);
  let d = snapped(by);
  while (Math.abs(d) > step / 2 && !sound(at(d))) d = snapped(d - Math.sign(d) * step);
  return Math.abs(d) > step / 2 ? at(d) : start;
}
