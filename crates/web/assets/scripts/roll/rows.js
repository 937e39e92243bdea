// The rows of a long sheet that are to be drawn: those that are seen and some around them, from the first to before
// the last.
export function rowsSeen(top, height, row, rows, around) {
  if (!row) return [0, Math.min(rows, 1)];
  const first = Math.max(0, Math.floor(top / row) - around);
  const last = Math.min(rows, Math.ceil((top + height) / row) + around);
  return [Math.min(first, Math.max(0, last - 1)), last];
}

// the frames between two places, both included
export function between(ids, a, b) {
  const [from, to] = a < b ? [a, b] : [b, a];
  return from < 0 ? ids.slice(to, to + 1) : ids.slice(from, to + 1);
}
