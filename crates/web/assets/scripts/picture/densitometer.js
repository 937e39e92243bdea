// Readings under the pointer from the plane that comes with each settled picture, and the marks on the picture.
import { ask } from '../page/ask.js';

const ZONES = ['0', 'I', 'II', 'III', 'IV', 'V', 'VI', 'VII', 'VIII', 'IX', 'X'];
const BLOWN = 1,
  BLOCKED = 2,
  BANDING = 4;
const $ = (id) => document.getElementById(id);
const signed = (v, digits) => {
  const text = Math.abs(v).toFixed(digits);
  return (Number(text) === 0 ? '' : v < 0 ? '−' : '+') + text;
};

// the zone of stops from mid grey, to the half
export function zoneOf(stops) {
  const half = Math.round((5 + stops) * 2) / 2;
  if (half < 0) return 'under 0';
  return half > 10 ? 'over X' : `${ZONES[Math.floor(half)]}${half % 1 ? ' ½' : ''}`;
}

export class Densitometer {
  constructor(frame, canvas, view) {
    Object.assign(this, { frame, canvas, view });
    this.plane = null;
    this.sequence = 0;
    this.marking = false;
    canvas.addEventListener('pointermove', (e) => this.point(e));
    canvas.addEventListener('pointerleave', () => this.clear());
  }

  async load(values) {
    const sequence = ++this.sequence;
    const answer = await ask(`/frames/${this.frame.id}/plane`, { json: { values, off: this.frame.off }, quiet: true });
    if (!answer || sequence !== this.sequence) return;
    const [width, height, layers] = answer.headers.get('x-plane').split(',').map(Number);
    const numbers = new Int16Array(await answer.arrayBuffer());
    if (sequence !== this.sequence) return;
    this.plane = { width, height, layers, numbers };
    this.canvas.dataset.plane = sequence; // the rail is swapped, the canvas stays
    this.hatch = null;
    if (this.marking) this.view.draw();
    if (this.last) this.read(...this.last);
  }

  point(e) {
    const box = this.canvas.getBoundingClientRect();
    const [x, y] = this.view.toFrame([e.clientX - box.left, e.clientY - box.top]);
    this.last = [x / this.frame.width, y / this.frame.height];
    this.read(...this.last);
  }

  // scene exposure under the pointer in stops from mid grey, or null
  stopsUnderPointer() {
    if (!this.plane || !this.last || this.last.some((v) => v < 0 || v >= 1)) return null;
    const { width, height } = this.plane;
    return this.mean(0, Math.floor(this.last[0] * width), Math.floor(this.last[1] * height)) / 256;
  }

  // the mean of 5 x 5 around a place
  mean(k, px, py) {
    const { width, height, numbers } = this.plane;
    let sum = 0,
      count = 0;
    for (let j = Math.max(0, py - 2); j <= Math.min(height - 1, py + 2); j++) {
      for (let i = Math.max(0, px - 2); i <= Math.min(width - 1, px + 2); i++) {
        sum += numbers[(k * height + j) * width + i];
        count++;
      }
    }
    return sum / count;
  }

  read(u, v) {
    if (!this.plane || u < 0 || v < 0 || u >= 1 || v >= 1) {
      this.clear();
      return;
    }
    const px = Math.floor(u * this.plane.width),
      py = Math.floor(v * this.plane.height);
    const stops = this.mean(0, px, py) / 256;
    $('ag-zone').textContent = `Zone ${zoneOf(stops)}`;
    $('ag-stops').textContent = `${signed(stops, 2)} stops from mid grey`;
    const rail = $('ag-rail');
    rail.classList.toggle('ag-onelayer', this.plane.layers === 1);
    for (let k = 0; k < 3; k++) {
      rail.querySelector(`[data-now="${k}"]`).textContent = (this.mean(1 + k, px, py) / 4096).toFixed(2);
      rail.querySelector(`[data-was="${k}"]`).textContent = (this.mean(4 + k, px, py) / 4096).toFixed(2);
      const lab = this.mean(7 + k, px, py) / 100;
      rail.querySelector(`[data-lab="${k}"]`).textContent = k === 0 ? lab.toFixed(0) : signed(lab, 0);
    }
    this.cursor(stops);
  }

  // the pointer's place on the film chart
  cursor(stops) {
    const chart = $('ag-chart');
    let line = chart.querySelector('.ag-at');
    if (!line) {
      line = document.createElementNS('http://www.w3.org/2000/svg', 'path');
      line.setAttribute('class', 'ag-at');
      chart.append(line);
    }
    const x = 20 + (178 * (5 + stops + 0.5)) / 11;
    line.setAttribute('d', x < 20 || x > 198 ? '' : `M${x.toFixed(1)} 4V112`);
  }

  clear() {
    this.last = null;
    $('ag-zone').textContent = '–';
    $('ag-stops').textContent = '–';
    $('ag-rail')
      .querySelectorAll('[data-now],[data-was],[data-lab]')
      .forEach((e) => {
        e.textContent = '–';
      });
    $('ag-chart').querySelector('.ag-at')?.remove();
  }

  mark(on) {
    this.marking = on;
    $('ag-marks').setAttribute('aria-pressed', on);
    this.view.draw();
  }

  // hatching without colour: two directions for the ends, upright lines for bands
  overlay(g, x, y, w, h) {
    if (!this.marking || !this.plane) return;
    this.hatch ??= this.hatched();
    g.imageSmoothingEnabled = false;
    g.drawImage(this.hatch, x, y, w, h);
  }

  hatched() {
    const { width, height, numbers } = this.plane;
    const scale = 5;
    const canvas = new OffscreenCanvas(width * scale, height * scale);
    const g = canvas.getContext('2d');
    const picture = g.createImageData(width * scale, height * scale);
    const at = 10 * width * height;
    for (let y = 0; y < height * scale; y++) {
      for (let x = 0; x < width * scale; x++) {
        const mark = numbers[at + Math.floor(y / scale) * width + Math.floor(x / scale)];
        if (!mark) continue;
        const phase = mark & BLOWN ? (x + y) % 8 : mark & BLOCKED ? (x - y + 8000) % 8 : mark & BANDING ? x % 10 : 9;
        const o = 4 * (y * width * scale + x);
        if (phase < 2) picture.data.set([255, 255, 255, 255], o);
        else if (phase < 4) picture.data.set([0, 0, 0, 200], o);
      }
    }
    g.putImageData(picture, 0, 0);
    return canvas;
  }
}
