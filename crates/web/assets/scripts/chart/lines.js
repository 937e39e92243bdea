// A chart's form as CSV lines.
const quoted = (text) => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);

// `wedge` and `patches` are rows of texts; rows without a number are left out
export function csvOf({ kind, name, iso, print, seen, wedge, patches }) {
  const layers = kind === 'bw-negative' ? 1 : 3;
  const lines = [
    ['kind', kind],
    ['name', name || 'From a chart'],
    ['iso', iso || '100'],
  ];
  if (print && kind === 'color-negative') lines.push(['print', print]);
  if (seen) lines.push(['seen', seen]);
  for (const row of wedge) {
    const cells = row.slice(0, 1 + layers).map((c) => c.trim());
    if (cells.some((c) => c)) lines.push(['wedge', ...cells]);
  }
  for (const [patch, ...values] of patches) {
    const cells = values.map((c) => c.trim());
    if (cells.slice(0, 3).every((c) => !c)) continue;
    const measured = cells.slice(3).some((c) => c) ? cells.slice(3) : [];
    lines.push(['patch', patch.trim() || '–', ...cells.slice(0, 3), ...measured]);
  }
  return lines.map((line) => line.map((cell) => quoted(String(cell))).join(',')).join('\n') + '\n';
}
