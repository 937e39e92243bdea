// Look-in: the picture as it leaves a station. The diamond on the line stands where one looks; at its end is the print.
import { declared } from '../page/declared.js';

const $ = (id) => document.getElementById(id);
const END = 8;
const name = (id) => document.querySelector(`#ag-stn-${id} .ag-nm`)?.textContent ?? id;

export class LookIn {
  constructor({ view, looking, started }) {
    Object.assign(this, { view, looking, started });
    this.at = END;
    this.itself = false;
    document.addEventListener('pointerdown', (e) => this.down(e));
    document.addEventListener('keydown', (e) => this.key(e), { capture: true });
    document.addEventListener('keyup', (e) => {
      if (e.key === 'Shift' && this.on && !this.pressed) this.go(this.at, false);
    });
    this.mark();
  }

  get on() {
    return this.at < END;
  }

  get diamond() {
    return $('ag-lookin');
  }

  // from the key: before the last station first, then along the line by arrows
  open() {
    if (!this.on) this.go(END - 1);
    this.diamond.focus({ focusVisible: true });
  }

  leave() {
    if (this.on) this.go(END);
  }

  // `at` stations have been passed
  go(at, itself = false) {
    if (!this.on && at < END) this.started();
    this.at = Math.min(END, Math.max(1, at));
    this.itself = itself && this.on;
    const station = declared.stations[this.at - 1];
    this.view.showVersion(this.on ? `${this.itself ? 'itself' : 'after'}:${station}` : '');
    this.looking.tell(this.on ? this.words(station) : '');
    this.mark();
  }

  words(station) {
    if (station === 'film') return 'After Film: exposed, to be developed';
    if (station === 'bath' && this.itself) return 'After Bath, as it is there';
    return `After ${name(station)}`;
  }

  mark() {
    const diamond = this.diamond;
    if (!diamond) return;
    diamond.dataset.at = this.at;
    diamond.classList.toggle('ag-on', this.on);
    diamond.setAttribute('aria-valuenow', this.at);
    diamond.setAttribute('aria-valuetext', this.on ? this.words(declared.stations[this.at - 1]) : 'the print');
  }

  down(e) {
    if (!e.target.closest?.('#ag-lookin')) return;
    e.preventDefault();
    this.pressed = true;
    this.diamond.focus({ focusVisible: false });
    const move = ({ clientX, shiftKey }) => {
      const line = $('ag-line').getBoundingClientRect();
      const at = Math.round((END * (clientX - line.left)) / line.width);
      if (at !== this.at || shiftKey !== this.itself) this.go(at, shiftKey);
    };
    const up = () => {
      this.pressed = false;
      document.removeEventListener('pointermove', move);
      document.removeEventListener('pointerup', up);
    };
    document.addEventListener('pointermove', move);
    document.addEventListener('pointerup', up);
  }

  key(e) {
    if (e.target.id !== 'ag-lookin') return;
    if (e.key === 'Shift' && this.on && !this.itself) this.go(this.at, true);
    const to = { ArrowLeft: this.at - 1, ArrowRight: this.at + 1, Home: 1, End: END }[e.key];
    if (to === undefined) return;
    this.go(to, e.shiftKey);
    e.preventDefault();
    e.stopPropagation();
  }
}
