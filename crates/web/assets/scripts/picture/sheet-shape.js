// Where a sheet lies on the picture: its outline and its handles, in pixels of the canvas.
//
// A sheet lies on a ground: the whole of the film's format for what is in the camera or on the negative, the picture as
// it is framed for what is on the print or over everything. Its middle is moved in per cent of the ground, it is scaled
// and turned with the clock about that middle.

// the ground on the canvas: middle and size; `box` is where the picture lies there
export function groundOf(frame, onFilm, [x, y, w, h]) {
  if (!onFilm) return { middle: [x + w / 2, y + h / 2], size: [w, h] };
  const per = w / frame.width;
  const middle = [0, 1].map((k) => [x, y][k] + (frame.film[k] / 2 - frame.corner[k]) * per);
  return { middle, size: frame.film.map((side) => side * per) };
}

// a picture covers its ground; what is made here is as large as its ground
export function sizeOf(ground, picture, fit) {
  if (!picture || fit === 'stretch') return ground.size;
  const per = Math.max(ground.size[0] / picture[0], ground.size[1] / picture[1]);
  return picture.map((side) => side * per);
}

const radians = (degrees) => (degrees * Math.PI) / 180;

// a vector turned with the clock
export function turned([x, y], degrees) {
  const [s, c] = [Math.sin(radians(degrees)), Math.cos(radians(degrees))];
  return [x * c - y * s, x * s + y * c];
}

// where the sheet's middle lies
export const middleOf = (ground, { x, y }) => [
  ground.middle[0] + (x / 100) * ground.size[0],
  ground.middle[1] + (y / 100) * ground.size[1],
];

// eight handles about the outline, as shares of half its size
export const SIDES = [
  [-1, -1],
  [0, -1],
  [1, -1],
  [1, 0],
  [1, 1],
  [0, 1],
  [-1, 1],
  [-1, 0],
];
const ROUND = 30; // pixels from the upper side inwards to the handle that turns

export function placed(ground, size, laid) {
  const middle = middleOf(ground, laid);
  const half = size.map((side) => (side * laid.scale) / 200);
  const at = ([a, b], out = 0) => {
    const [dx, dy] = turned([a * half[0], b * half[1] + out], laid.turn);
    return [middle[0] + dx, middle[1] + dy];
  };
  return { middle, handles: SIDES.map((side) => at(side)), round: at([0, -1], ROUND), half };
}

// inside the outline
export function holds({ middle, half }, laid, [px, py]) {
  const [dx, dy] = turned([px - middle[0], py - middle[1]], -laid.turn);
  return Math.abs(dx) <= half[0] && Math.abs(dy) <= half[1];
}

// what the hand holds: 'turn', 'scale', 'move' or nothing
export function grasped(shape, laid, point, reach, free) {
  const near = ([x, y]) => Math.hypot(point[0] - x, point[1] - y) < reach;
  if (near(shape.round)) return 'turn';
  if (shape.handles.some(near)) return 'scale';
  if (near(shape.middle) || (free && holds(shape, laid, point))) return 'move';
  return null;
}

// what a drag makes of how it was laid
export function moved(what, ground, laid, from, to, fine) {
  const middle = middleOf(ground, laid);
  if (what === 'move') {
    const by = fine ? 0.1 : 1;
    return {
      x: laid.x + (100 * by * (to[0] - from[0])) / ground.size[0],
      y: laid.y + (100 * by * (to[1] - from[1])) / ground.size[1],
    };
  }
  const arm = ([x, y]) => [x - middle[0], y - middle[1]];
  const [a, b] = [arm(from), arm(to)];
  if (what === 'scale') return { scale: (laid.scale * Math.hypot(...b)) / Math.max(1, Math.hypot(...a)) };
  const angle = ([x, y]) => (Math.atan2(y, x) * 180) / Math.PI;
  let turn = laid.turn + angle(b) - angle(a);
  // with Shift in steps of 15 degrees
  if (fine) turn = 15 * Math.round(turn / 15);
  return { turn: ((((turn + 180) % 360) + 360) % 360) - 180 };
}
