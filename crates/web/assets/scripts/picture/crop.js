// The frame of the crop: its corners are drawn and dragged; the corner that lies across stays where it is.
import { within } from '../page/declared.js';

const CORNER = 14; // pixels within which a corner is caught

// which corner lies under a point of the canvas: [1 or 0 for right, 1 or 0 for below]
export function cornerAt([px, py], [x, y, w, h]) {
  for (const right of [0, 1]) {
    for (const below of [0, 1]) {
      if (Math.hypot(px - (x + right * w), py - (y + below * h)) < CORNER) return [right, below];
    }
  }
  return null;
}

// the rectangle while a corner is dragged: its shape stays
export function dragged([right, below], [px, py], [x, y, w, h], size) {
  const across = right ? px - x : x + w - px,
    down = below ? py - y : y + h - py;
  const wanted = Math.max(across / w, down / h);
  const kept = within('lens.crop.size', size * wanted, { step: true });
  const f = kept / size;
  return { size: kept, factor: f, box: [right ? x : x + w * (1 - f), below ? y : y + h * (1 - f), w * f, h * f] };
}

// values for the frame after a corner was dragged
export function cropValues(frame, values, [right, below], { size, factor }) {
  const angle = (Number(values['lens.straighten'] ?? 0) * Math.PI) / 180;
  const [sine, cosine] = [Math.sin(angle), Math.cos(angle)];
  const [w, h] = [frame.width, frame.height];
  // the frame's centre moves towards the corner that stays
  const offset = [((factor - 1) / 2) * w * (right ? 1 : -1), ((factor - 1) / 2) * h * (below ? 1 : -1)];
  const moved = [offset[0] * cosine - offset[1] * sine, offset[0] * sine + offset[1] * cosine];
  const reach = [w * Math.abs(cosine) + h * Math.abs(sine), w * Math.abs(sine) + h * Math.abs(cosine)];
  const place = [0, 1].map((k) => {
    const now = (Number(values[k ? 'lens.crop.y' : 'lens.crop.x'] ?? 0) / 100) * (frame.slack[k] / 2);
    const slack = frame.slack[k] + (1 - factor) * reach[k];
    return slack > 1 ? within(k ? 'lens.crop.y' : 'lens.crop.x', (200 * (now + moved[k])) / slack) : 0;
  });
  return { 'lens.crop.size': size, 'lens.crop.x': place[0], 'lens.crop.y': place[1] };
}

// thirds and corners, and the rectangle in hand
export function drawCrop(g, [x, y, w, h], hand) {
  const [l, t, width, height] = hand?.box ?? [x, y, w, h];
  if (hand) {
    g.fillStyle = 'rgba(0,0,0,.5)';
    g.beginPath();
    g.rect(x, y, w, h);
    g.rect(l, t, width, height);
    g.fill('evenodd');
  }
  for (const [style, line] of [
    ['rgba(0,0,0,.55)', 3],
    ['#fff', 1],
  ]) {
    g.strokeStyle = style;
    g.lineWidth = line;
    g.strokeRect(l, t, width, height);
    g.beginPath();
    for (const s of [1 / 3, 2 / 3]) {
      g.moveTo(l + width * s, t);
      g.lineTo(l + width * s, t + height);
      g.moveTo(l, t + height * s);
      g.lineTo(l + width, t + height * s);
    }
    g.stroke();
  }
  for (const right of [0, 1]) {
    for (const below of [0, 1]) {
      g.fillStyle = hand && hand.corner[0] === right && hand.corner[1] === below ? '#f0a440' : '#fff';
      g.strokeStyle = 'rgba(0,0,0,.8)';
      g.lineWidth = 1.5;
      g.beginPath();
      g.rect(l + width * right - 4, t + height * below - 4, 8, 8);
      g.fill();
      g.stroke();
    }
  }
}
