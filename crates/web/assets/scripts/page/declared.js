// What the core declares: ranges of controls, limits of lists, the rules that drawings follow. No script has its own.
const read = (id) => JSON.parse(globalThis.document?.getElementById(id)?.textContent || '{}');

export const declared = read('ag-declared');

// a value within its control's range, on one of its steps where that is asked for
export function within(id, value, { step = false } = {}) {
  const range = declared.ranges[id];
  const kept = Math.min(range.high, Math.max(range.low, step ? Math.round(value / range.step) * range.step : value));
  return Number(kept.toFixed(range.decimals));
}
