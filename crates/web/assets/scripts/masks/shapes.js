// What is drawn of a mask's part on the picture, and its handles. Lengths are shares of the original's diagonal.

const CASING = 'rgba(0,0,0,.6)',
  WHITE = '#fff',
  HAND = '#f0a440';
const HANDLE = 6,
  TAIL = 10;
const rad = (degrees) => (degrees * Math.PI) / 180;

// from diagonals to shares of the sides
export const perSide = ([w, h]) => {
  const d = Math.hypot(w, h);
  return [d / w, d / h];
};

// a place of an ellipse: `distance` radii out, at an angle from its own axis
function onOval(oval, original, distance, angle) {
  const [px, py] = perSide(original);
  const [x, y] = [distance * oval.radii[0] * Math.cos(angle), distance * oval.radii[1] * Math.sin(angle)];
  const [c, s] = [Math.cos(rad(oval.turn ?? 0)), Math.sin(rad(oval.turn ?? 0))];
  return [oval.centre[0] + (x * c - y * s) * px, oval.centre[1] + (x * s + y * c) * py];
}

// handles in shares of the original: a name, a place
export function handles(part, original) {
  if (part?.kind === 'ellipse') {
    const at = (a) => onOval(part, original, 1, a);
    return [
      ['centre', part.centre],
      ['across', at(0)],
      ['across', at(Math.PI)],
      ['down', at(Math.PI / 2)],
      ['down', at(-Math.PI / 2)],
      ['turn', onOval(part, original, 1 + 0.05 / part.radii[0], 0)],
    ];
  }
  if (part?.kind === 'linear') {
    const middle = [0, 1].map((k) => (part.from[k] + part.to[k]) / 2);
    return [
      ['from', part.from],
      ['to', part.to],
      ['centre', middle],
    ];
  }
  return [];
}

// a part after one of its handles was dragged to a place; `start` is the part before
export function dragged(start, name, place, from, original) {
  const [px, py] = perSide(original);
  const by = [place[0] - from[0], place[1] - from[1]];
  const shifted = (p) => [p[0] + by[0], p[1] + by[1]];
  if (start.kind === 'linear') {
    if (name === 'from') return { ...start, from: place };
    if (name === 'to') return { ...start, to: place };
    return { ...start, from: shifted(start.from), to: shifted(start.to) };
  }
  if (name === 'centre') return { ...start, centre: shifted(start.centre) };
  const [x, y] = [(place[0] - start.centre[0]) / px, (place[1] - start.centre[1]) / py];
  if (name === 'turn') return { ...start, turn: Math.round((Math.atan2(y, x) * 180) / Math.PI) };
  const [c, s] = [Math.cos(rad(start.turn ?? 0)), Math.sin(rad(start.turn ?? 0))];
  const least = (v) => Math.min(1, Math.max(0.002, Math.abs(v)));
  const radii = [...start.radii];
  if (name === 'across') radii[0] = least(x * c + y * s);
  else radii[1] = least(y * c - x * s);
  return { ...start, radii };
}

// a fall with another direction or length about its middle
export function turned(part, original, angle, length) {
  const [px, py] = perSide(original);
  const half = [(Math.cos(rad(angle)) * length * px) / 2, (Math.sin(rad(angle)) * length * py) / 2];
  const middle = [0, 1].map((k) => (part.from[k] + part.to[k]) / 2);
  return { ...part, from: [0, 1].map((k) => middle[k] - half[k]), to: [0, 1].map((k) => middle[k] + half[k]) };
}

export function fall(part, original) {
  const [px, py] = perSide(original);
  const [x, y] = [(part.to[0] - part.from[0]) / px, (part.to[1] - part.from[1]) / py];
  return { angle: (Math.atan2(y, x) * 180) / Math.PI, length: Math.hypot(x, y) };
}

// lines, within the picture, and handles; `toScreen` takes a place of the original
export function draw(g, part, original, toScreen, inHand, [left, top, width, height]) {
  g.save();
  g.beginPath();
  g.rect(left, top, width, height);
  g.clip();
  const line = (places, dashed) => {
    for (const [style, thick] of [
      [CASING, 3],
      [WHITE, 1.25],
    ]) {
      g.strokeStyle = style;
      g.lineWidth = thick;
      g.setLineDash(dashed ? [5, 4] : []);
      g.beginPath();
      places.map(toScreen).forEach(([x, y]) => g.lineTo(x, y));
      g.stroke();
    }
    g.setLineDash([]);
  };
  if (part.kind === 'ellipse') {
    const round = (distance) =>
      Array.from({ length: 73 }, (_, i) => onOval(part, original, distance, (i / 72) * 2 * Math.PI));
    line(round(1), true);
    if (part.feather < 0.98) line(round(1 - part.feather), false);
    line([onOval(part, original, 1, 0), onOval(part, original, 1 + 0.05 / part.radii[0], 0)], false);
  } else if (part.kind === 'linear') {
    const [px, py] = perSide(original);
    const { angle } = fall(part, original);
    const [sx, sy] = [-Math.sin(rad(angle)) * 3 * px, Math.cos(rad(angle)) * 3 * py];
    for (const [place, dashed] of [
      [part.from, false],
      [part.to, true],
    ]) {
      line(
        [
          [place[0] - sx, place[1] - sy],
          [place[0] + sx, place[1] + sy],
        ],
        dashed,
      );
    }
    line([part.from, part.to], false);
  }
  g.restore();
  for (const [name, place] of handles(part, original)) {
    const [x, y] = toScreen(place);
    g.beginPath();
    if (name === 'turn') g.arc(x, y, HANDLE - 1, 0, 2 * Math.PI);
    else if (name === 'centre') {
      g.arc(x, y, HANDLE, 0, 2 * Math.PI);
    } else g.rect(x - 4, y - 4, 8, 8);
    g.fillStyle = name === inHand ? HAND : WHITE;
    g.strokeStyle = 'rgba(0,0,0,.8)';
    g.lineWidth = 1.5;
    g.fill();
    g.stroke();
  }
}

// the brush over the picture, and the stroke in hand before the application has painted it
export function drawBrush(g, at, diameter, stroke, tinted, softness) {
  if (stroke?.length) {
    g.save();
    g.lineCap = g.lineJoin = 'round';
    g.strokeStyle = tinted ? 'rgba(226,48,78,.45)' : 'rgba(255,255,255,.25)';
    // to where the border is half as strong
    g.lineWidth = diameter * (1 - softness / 2);
    g.beginPath();
    // the application has painted the rest
    stroke.slice(-TAIL).forEach(([x, y]) => g.lineTo(x, y));
    if (stroke.length === 1) g.lineTo(stroke[0][0] + 0.01, stroke[0][1]);
    g.stroke();
    g.restore();
  }
  if (!at) return;
  for (const [style, width] of [
    [CASING, 3],
    [WHITE, 1.25],
  ]) {
    g.strokeStyle = style;
    g.lineWidth = width;
    g.beginPath();
    g.arc(at[0], at[1], Math.max(2, diameter / 2), 0, 2 * Math.PI);
    g.stroke();
  }
}
