// A patch between two places, in shares of a picture's sides.
const LEAST = 0.02;
const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const SMALL = 0.01;
const LARGE = 0.05;

// left, upper, width, height; never smaller than can be seen, never outside
export function patchOf([x0, y0], [x1, y1]) {
  const side = (a, b) => {
    const length = Math.min(1, Math.max(LEAST, Math.abs(b - a)));
    return [Math.min(1 - length, Math.max(0, Math.min(a, b))), length];
  };
  const [x, width] = side(x0, x1);
  const [y, height] = side(y0, y1);
  return [x, y, width, height];
}

// what an arrow moves, with Shift by more
export function step(e) {
  const by = STEPS[e.key];
  return by ? by.map((v) => v * (e.shiftKey ? LARGE : SMALL)) : null;
}
