// Pinned readings: up to four places of the picture, kept with the frame, each with its densities now and in the stock.
import { ask } from '../page/ask.js';
import { say } from '../page/messages.js';
import { zoneOf } from './densitometer.js';

const MOST = 4;
const NEAR = 12; // CSS pixels within which a press takes a pin out
const APART_MS = 150; // between readings while a control moves
const $ = (id) => document.getElementById(id);

export class Pins {
  // `free()` says whether a press on the picture is for nothing else
  constructor({ frame, canvas, view, free }) {
    Object.assign(this, { frame, canvas, view, free });
    this.places = frame.pins;
    this.readings = [];
    this.asked = 0;
    canvas.addEventListener('click', (e) => {
      if (e.shiftKey && this.free()) this.press(view.pointOf(e));
    });
    document.addEventListener('click', (e) => {
      const gone = e.target.closest('button[data-unpin]');
      if (gone) this.drop(+gone.dataset.unpin);
    });
    this.show();
  }

  toScreen([u, v]) {
    const [x, y, w, h] = this.view.box();
    return [x + u * w, y + v * h];
  }

  // a place that is pinned is let go, another is pinned
  press(point) {
    const near = this.places.findIndex((place) => {
      const [x, y] = this.toScreen(place);
      return Math.hypot(x - point[0], y - point[1]) < NEAR;
    });
    if (near >= 0) {
      this.drop(near);
      return;
    }
    const [x, y, w, h] = this.view.box();
    this.pin([(point[0] - x) / w, (point[1] - y) / h]);
  }

  // under the pointer, or in the middle of what is seen
  pinHere() {
    this.press(this.view.pointer ?? [this.view.width / 2, this.view.height / 2]);
  }

  pin(place) {
    if (place.some((v) => v < 0 || v > 1)) return;
    if (this.places.length >= MOST) {
      say('Four places are pinned. Take one out first: press it again, or its cross.');
      return;
    }
    this.places.push(place.map((v) => Number(v.toFixed(5))));
    this.keep();
  }

  drop(i) {
    this.places.splice(i, 1);
    this.keep();
  }

  keep() {
    ask(`/frames/${this.frame.id}/pins`, { json: this.places });
    this.readings = [];
    this.read(this.view.values, true);
    this.show();
  }

  // while a control moves one reading is on its way at a time
  async read(values, now = false) {
    if (!this.places.length) return;
    const time = performance.now();
    if (!now && (this.reading || time - this.asked < APART_MS)) return;
    this.asked = time;
    this.reading = true;
    const sequence = (this.sequence = (this.sequence ?? 0) + 1);
    const json = { values, off: this.frame.off, places: this.places };
    const answer = await ask(`/frames/${this.frame.id}/spots`, { json, quiet: true });
    const readings = answer ? await answer.json() : null;
    if (sequence === this.sequence) this.reading = false;
    if (!readings || sequence !== this.sequence) return;
    this.readings = readings;
    this.show();
  }

  show() {
    const section = $('ag-pins');
    if (!section) return;
    section.hidden = !this.places.length;
    $('ag-rail').classList.toggle('ag-pinned', this.places.length > 0);
    section.querySelector('ol').replaceChildren(...this.places.map((_, i) => this.row(i)));
    this.view.draw();
  }

  row(i) {
    const made = $('ag-pinrow').content.cloneNode(true);
    const [row, cells] = [made.querySelector('li'), made.querySelectorAll('span')];
    row.querySelector('b').textContent = i + 1;
    const drop = row.querySelector('button');
    drop.dataset.unpin = i;
    drop.setAttribute('aria-label', `Take place ${i + 1} out`);
    const reading = this.readings[i];
    if (reading) {
      const { stops, now, stock } = reading;
      [zoneOf(stops), ...now.map((v) => v.toFixed(2)), ...stock.map((v) => v.toFixed(2))].forEach((text, k) => {
        const cell = now.length === 1 && k > 0 ? cells[k === 1 ? 1 : 4] : cells[k];
        cell.textContent = text;
      });
    }
    return made;
  }

  // rings with their number; nothing of it is coloured
  paint(g) {
    this.places.forEach((place, i) => {
      const [x, y] = this.toScreen(place);
      for (const [colour, width] of [
        ['rgba(0,0,0,.75)', 3.5],
        ['#fff', 1.5],
      ]) {
        g.strokeStyle = colour;
        g.lineWidth = width;
        g.beginPath();
        g.arc(x, y, 6, 0, 7);
        g.stroke();
      }
      g.font = '600 11px Archivo';
      g.textAlign = 'left';
      g.textBaseline = 'middle';
      g.lineWidth = 3;
      g.strokeStyle = 'rgba(0,0,0,.75)';
      g.strokeText(i + 1, x + 10, y);
      g.fillStyle = '#fff';
      g.fillText(i + 1, x + 10, y);
      g.lineWidth = 1;
    });
  }
}
