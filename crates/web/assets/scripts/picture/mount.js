// What is round the picture: drawn by the application for the size at which it is seen, laid over the picture's border.
import { ask } from '../page/ask.js';

const WIDEST = 2400; // pixels for which a mount is drawn; larger ones are enlarged

export class MountPicture {
  constructor(frame, view) {
    Object.assign(this, { frame, view });
    this.bitmap = null;
    this.asked = '';
  }

  get there() {
    return this.frame.mount.some((side) => side > 0);
  }

  // what it looks like depends on its own values, the film's, and the size at which it is seen
  async follow(values) {
    if (!this.there) {
      this.bitmap = null;
      this.asked = '';
      return;
    }
    const width = Math.max(1, Math.min(WIDEST, Math.round(this.frame.width * this.view.scale * this.view.ratio)));
    const of = Object.entries(values).filter(([id]) => !/^surface\.sheet|^scene|^lens\.(soft|bloom|fall)/.test(id));
    const asked = JSON.stringify([width, this.frame.stock, this.frame.width, this.frame.height, this.frame.off, of]);
    if (asked === this.asked || this.busy) return;
    this.busy = true;
    const answer = await ask(`/frames/${this.frame.id}/mount`, {
      json: { values, off: this.frame.off, width },
      quiet: true,
    });
    if (answer) {
      this.bitmap = await createImageBitmap(await answer.blob());
      this.asked = asked;
    }
    this.busy = false;
    this.view.draw();
    // what was changed in the meantime
    if (answer) this.follow(this.view.values);
  }

  paint(g, x, y, w, h) {
    if (!this.bitmap || !this.there) return;
    const per = w / this.frame.width;
    const [left, top, right, bottom] = this.frame.mount.map((side) => side * per);
    g.imageSmoothingEnabled = true;
    g.drawImage(this.bitmap, x - left, y - top, w + left + right, h + top + bottom);
  }
}
