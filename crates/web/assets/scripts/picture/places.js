// The middle of softness, falloff and flash: drawn on the picture and dragged there.
import { within } from '../page/declared.js';

const NAMES = { Softness: 'softness', Falloff: 'falloff', Flash: 'flash' };
const number = (id) => {
  const c = document.querySelector(`.ag-ctl[data-control="${CSS.escape(id)}"]`);
  return c ? Number(c.dataset.value) : null;
};

// the effect whose middle the open tab places
export function placed() {
  const tab = document.querySelector('[data-column="lens.middle"] [data-tab][aria-selected=true]');
  return NAMES[tab?.dataset.tab] ?? null;
}

// values for a middle at a place, given as shares of the frame
export function middleAt(what, [u, v]) {
  const at = (axis, share) => ({ [`lens.${what}.${axis}`]: within(`lens.${what}.${axis}`, (2 * share - 1) * 100) });
  return { ...at('x', u), ...at('y', v) };
}

// the outline of the clear middle and the end of its feather: white dashes with a dark casing
export function drawMiddle(g, values, x, y, w, h) {
  const what = placed();
  if (!what) return;
  const of = (name, own) => (values[`lens.${what}.${name}`] ?? number(`lens.${what}.${name}`) ?? own) / 100;
  const size = what === 'flash' ? of('reach', 20) : of('size', 30);
  const [feather, roundness, aspect] = [
    of('feather', 80),
    what === 'flash' ? 1 : of('roundness', 100),
    what === 'falloff' ? of('aspect', 0) : 0,
  ];
  const power = 2 * 4 ** (1 - roundness),
    stretch = 2 ** (aspect / 2);
  const cx = x + (w / 2) * (1 + of('x', 0)),
    cy = y + (h / 2) * (1 + of('y', 0));
  const outline = (distance) => {
    g.beginPath();
    for (let i = 0; i <= 96; i++) {
      const a = (i / 96) * 2 * Math.PI;
      const [c, s] = [Math.cos(a), Math.sin(a)];
      const r = distance / (Math.abs(c) ** power + Math.abs(s) ** power) ** (1 / power);
      g.lineTo(cx + r * c * stretch * (w / 2), cy + ((r * s) / stretch) * (h / 2));
    }
    g.closePath();
  };
  g.save();
  g.beginPath();
  g.rect(x, y, w, h);
  g.clip();
  for (const distance of [size, size + feather]) {
    for (const [style, width] of [
      ['rgba(0,0,0,.6)', 3],
      ['#fff', 1.25],
    ]) {
      g.strokeStyle = style;
      g.lineWidth = width;
      g.setLineDash(distance === size ? [] : [5, 4]);
      outline(distance);
      g.stroke();
    }
  }
  g.setLineDash([]);
  g.fillStyle = '#f0a440';
  g.strokeStyle = 'rgba(0,0,0,.7)';
  g.beginPath();
  g.arc(cx, cy, 5, 0, 2 * Math.PI);
  g.fill();
  g.stroke();
  g.restore();
}
