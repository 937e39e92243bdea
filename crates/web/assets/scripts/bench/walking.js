// Walking a roll: the frames before and after are rendered ahead at the size in which they will stand, so that the next
// one is on the screen at once. In the order in which they lie on the contact sheet.
import { ask } from '../page/ask.js';
import { levelFor } from '../picture/levels.js';

const $ = (id) => document.getElementById(id);
const MARGIN = 12; // of the surround, as around the picture

export class Walking {
  constructor({ frame, view, store }) {
    Object.assign(this, { frame, view, store });
    this.ahead = new Map();
    const order = JSON.parse(sessionStorage.getItem(`ag-order-${frame.roll}`) ?? '[]');
    const at = order.indexOf(frame.id);
    for (const [id, place] of [
      ['ag-previous', at - 1],
      ['ag-next', at + 1],
    ]) {
      const link = $(id);
      if (at >= 0) {
        link.hidden = order[place] === undefined;
        if (!link.hidden) link.href = `/frames/${order[place]}`;
      }
      link.addEventListener('click', (e) => this.go(e, link));
    }
    if (at >= 0) {
      const two = (n) => String(n).padStart(2, '0');
      $('ag-place').textContent = `${two(at + 1)} / ${two(order.length)}`;
    }
  }

  // the picture is there: what comes next is made behind it
  look() {
    if (this.begun) return;
    this.begun = true;
    for (const id of ['ag-next', 'ag-previous']) if (!$(id).hidden) this.make(+$(id).href.split('/').at(-1));
  }

  async make(id) {
    const answer = await ask(`/frames/${id}/card`, { method: 'GET', quiet: true });
    if (!answer) return;
    const { version, width, height } = await answer.json();
    const room = [this.view.width - 2 * MARGIN, this.view.height - 2 * MARGIN];
    const level = levelFor([width, height], room, this.view.ratio);
    const picture = new Image();
    picture.addEventListener('load', () => {
      const scale = Math.min(room[0] / width, room[1] / height, 1 / this.view.ratio);
      const size = [width * scale, height * scale];
      const box = [(this.view.width - size[0]) / 2, (this.view.height - size[1]) / 2, ...size];
      this.ahead.set(id, { id, url: picture.src, box, picture });
      $('ag-app').dataset.ahead = [...this.ahead.keys()].join(' ');
    });
    picture.src = `/frames/${id}/standing?level=${level}&v=${version}`;
  }

  // with what is open on the bench, and with the picture that was made ahead
  go(e, link) {
    if (e.ctrlKey || e.metaKey || e.shiftKey) return;
    e.preventDefault();
    const id = +link.href.split('/').at(-1);
    const { station, page } = this.store.where();
    const there = this.ahead.get(id);
    if (there && this.view.fitted && !this.store.unsaved) {
      const { url, box } = there;
      sessionStorage.setItem('ag-standing', JSON.stringify({ id, url, box, since: Date.now() }));
      this.stand(there);
    }
    this.store.leave(`${link.href}?${new URLSearchParams({ station, page })}`);
  }

  stand({ picture, box }) {
    const pane = this.view.canvas.parentElement;
    picture.className = 'ag-standing';
    const [left, top, width, height] = box.map((v) => `${v}px`);
    Object.assign(picture.style, { left, top, width, height });
    pane.append(picture);
    $('ag-canvas').style.visibility = 'hidden';
  }
}

// the page's own picture is there: what stood for it goes
export function standsItself() {
  document.getElementById('ag-standing')?.remove();
}
