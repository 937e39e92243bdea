// Several frames at once: with the switch on, what is changed here is changed on all that were chosen on the sheet, and
// controls on which they differ say so.
import { ask } from '../page/ask.js';
import { chosen } from '../roll/selection.js';

const $ = (id) => document.getElementById(id);
const KEY = 'ag-many';
const WAIT_MS = 300;

export class Many {
  constructor({ frame, store }) {
    Object.assign(this, { frame, store });
    const { roll, ids } = chosen();
    this.ids = roll === frame.roll && ids.includes(frame.id) ? ids : [];
    this.button = $('ag-many');
    this.differing = {};
    this.on = this.ids.length > 1 && sessionStorage.getItem(KEY) === 'on';
    this.button.hidden = this.ids.length < 2;
    this.button.addEventListener('click', () => this.toggle());
    this.show();
  }

  toggle() {
    if (this.ids.length < 2) return;
    this.on = !this.on;
    sessionStorage.setItem(KEY, this.on ? 'on' : 'off');
    this.show();
  }

  show() {
    this.button.querySelector('span').textContent = `All ${this.ids.length} chosen`;
    this.button.setAttribute('aria-pressed', this.on);
    this.store.others = this.on ? this.ids.filter((id) => id !== this.frame.id).join(',') : '';
    this.load();
  }

  // where they differ: asked for when the hand rests
  load() {
    clearTimeout(this.soon);
    if (!this.on) {
      this.differing = {};
      this.mark();
      return;
    }
    this.soon = setTimeout(async () => {
      const answer = await ask(`/selection/differing?ids=${this.ids.join(',')}`, { method: 'GET', quiet: true });
      if (answer && this.on) this.differing = await answer.json();
      this.mark();
    }, WAIT_MS);
  }

  mark() {
    for (const control of document.querySelectorAll('#ag-bench [data-control]')) {
      const between = this.differing[control.dataset.control];
      control.classList.toggle('ag-differs', between !== undefined);
      control.querySelector('.ag-differing')?.remove();
      if (between === undefined) continue;
      const words = document.createElement('span');
      words.className = between ? 'ag-differing num' : 'ag-differing ag-vh';
      words.textContent = between ? `${between[0]} … ${between[1]}` : 'the chosen frames differ';
      control.append(words);
    }
  }
}
