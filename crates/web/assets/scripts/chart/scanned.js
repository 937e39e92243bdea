// What was read in a picture, laid into the rows of a chart's tables.
export const rounded = (v) => String(Math.round(v * 1000) / 1000);

// densities that were typed, by step; null where any is missing
export function measured(steps, layers) {
  return steps.map((cells) => {
    const typed = cells.slice(1, 1 + layers).map((c) => c.trim().replace(',', '.'));
    return typed.every((c) => c !== '' && Number.isFinite(Number(c))) ? typed.map(Number) : null;
  });
}

// rows of steps with the densities that were read where none were typed, and how many these are
export function withDensities(steps, found, layers) {
  const typed = measured(steps, layers);
  let read = 0;
  const rows = found.map((densities, i) => {
    const before = steps[i] ?? ['', '', '', ''];
    if (typed[i]) return before;
    read += 1;
    return [before[0], ...densities.map(rounded), '', ''].slice(0, 4);
  });
  return { rows: [...rows, ...steps.slice(found.length)], read };
}

// rows of patches with the colours that were read
export function withColours(patches, read) {
  const rows = patches.map((cells) => [...cells]);
  read.forEach((lab, i) => {
    const before = rows[i] ?? [String(i + 1), '', '', ''];
    rows[i] = [...before.slice(0, 4), ...lab.map((v) => rounded(Math.round(v * 10) / 10))];
  });
  return rows;
}
