// Compare: a second picture over the first while a key is held, divided by a line, or side by side. It is of the
// original, the stock as it is, a proof, or another frame; both are zoomed and moved together.
import { View } from '../picture/view.js';

const $ = (id) => document.getElementById(id);
const STEP = 1; // per cent that a key moves the line
const FINE = 0.2;
const PEEK_MS = 180; // a print that is pressed this long shows itself until it is let go

export class Compare {
  // `values()` are those in force: what is compared is framed as they say
  constructor({ frame, view, values }) {
    Object.assign(this, { frame, view, values });
    this.against = 'original';
    this.how = 'off'; // off, divide, side
    this.held = false;
    this.line = { share: 50, level: false };
    this.other = null;
    view.linked = () => this.follow();
    document.addEventListener('click', (e) => this.click(e));
    window.addEventListener('blur', () => this.hold(false));
    this.listenToPeeks();
    this.listenToLine();
    this.show();
  }

  click(e) {
    const how = e.target.closest('button[data-compare]')?.dataset.compare;
    if (how === 'divide') this.divide();
    if (how === 'side') this.side();
    const print = e.target.closest('button[data-print]');
    if (!print) return;
    if (e.shiftKey) this.develop(print.dataset.print === this.view.of ? '' : print.dataset.print);
    else this.choose(print.dataset.print);
  }

  // ---- what is compared

  // the ring lies round what is compared against
  choose(against) {
    this.against = against;
    this.show();
  }

  // the version that stands on the picture's own side
  develop(of) {
    if (of.startsWith('frame:')) return;
    this.view.showVersion(of);
    this.show();
  }

  // another version on the picture's own side; the picture on its way along the line is none
  get version() {
    return /^(after|itself):/.test(this.view.of) ? '' : this.view.of;
  }

  nameOf(of) {
    if (!of) return 'Now';
    return document.querySelector(`[data-print="${CSS.escape(of)}"]`)?.dataset.name ?? of;
  }

  // ---- how

  hold(on) {
    if (this.held === on) return;
    this.held = on;
    this.show();
  }

  // upright, level, off
  divide(byKey = false) {
    if (this.how !== 'divide') Object.assign(this, { how: 'divide', line: { share: 50, level: false } });
    else if (!this.line.level) this.line = { share: 50, level: true };
    else this.how = 'off';
    this.show();
    if (byKey && this.how === 'divide') $('ag-divide').focus({ focusVisible: true });
  }

  side() {
    this.how = this.how === 'side' ? 'off' : 'side';
    this.show();
  }

  leave() {
    this.how = 'off';
    this.develop('');
    this.show();
  }

  get isOn() {
    return this.how !== 'off' || this.version !== '';
  }

  // ---- the second picture

  get seen() {
    return this.held || this.how !== 'off';
  }

  // made when it is first looked at
  second() {
    const id = this.against.startsWith('frame:') ? +this.against.slice(6) : this.frame.id;
    const of = id === this.frame.id ? this.against : 'kept';
    if (this.other?.frame.id !== id) {
      const frame = { ...this.frame, id, masks: {}, mount: [...this.frame.mount], corner: [...this.frame.corner] };
      if (this.other) Object.assign(this.other, { frame, pictures: {}, of });
      else this.other = new View($('ag-other'), frame, this.values(), (told) => this.told(told), of);
      this.other.linked = () => this.lead();
    }
    this.other.showVersion(of);
    return this.other;
  }

  told({ framed }) {
    if (framed) this.follow();
  }

  follow() {
    if (!this.seen || this.leading) return;
    const other = this.second();
    other.values = this.values();
    other.follow(this.view);
  }

  // moved by its own hand, the picture goes with it
  lead() {
    if (this.how !== 'side' || this.leading) return;
    this.leading = true;
    this.view.follow(this.other);
    this.view.told({ zoom: this.view.scale * this.view.ratio, fitted: this.view.fitted });
    this.leading = false;
  }

  // the stock or the framing is another
  refresh() {
    if (!this.other) return;
    this.other.values = this.values();
    this.other.forget();
    if (this.seen) this.other.follow(this.view);
  }

  show() {
    const easel = $('ag-easel');
    const how = this.held ? 'hold' : this.how;
    easel.dataset.compare = how;
    easel.dataset.level = how === 'divide' && this.line.level;
    $('ag-otherpane').hidden = !this.seen;
    $('ag-divide').hidden = how !== 'divide';
    easel.style.setProperty('--divide', `${this.line.share}%`);
    for (const button of document.querySelectorAll('button[data-compare]'))
      button.setAttribute('aria-pressed', button.dataset.compare === this.how);
    for (const print of document.querySelectorAll('button[data-print]')) {
      print.setAttribute('aria-pressed', print.dataset.print === this.against);
      print.classList.toggle('ag-shownow', print.dataset.print === this.version);
    }
    const [there, here] = [this.nameOf(this.against), this.nameOf(this.version)];
    $('ag-othertag').textContent = there;
    $('ag-heretag').textContent = here;
    $('ag-heretag').hidden = !(how === 'divide' || how === 'side' || this.version);
    $('ag-other').setAttribute('aria-label', there);
    const line = $('ag-divide');
    line.setAttribute('aria-valuenow', Math.round(this.line.share));
    line.setAttribute('aria-orientation', this.line.level ? 'vertical' : 'horizontal');
    line.setAttribute('aria-valuetext', `${there} to ${Math.round(this.line.share)} %, ${here} beyond`);
    this.follow();
  }

  // ---- a print that is pressed shows itself

  listenToPeeks() {
    let wait = null;
    const end = () => {
      clearTimeout(wait);
      wait = null;
      if (this.peeking !== undefined) {
        this.against = this.peeking;
        this.peeking = undefined;
        this.hold(false);
      }
    };
    document.addEventListener('pointerdown', (e) => {
      const print = e.target.closest?.('button[data-print]');
      if (!print || e.button !== 0) return;
      wait = setTimeout(() => {
        this.peeking = this.against;
        this.against = print.dataset.print;
        this.hold(true);
      }, PEEK_MS);
    });
    for (const event of ['pointerup', 'pointercancel']) document.addEventListener(event, end);
  }

  // ---- the line

  moveTo(share) {
    this.line.share = Math.min(100, Math.max(0, share));
    this.show();
  }

  listenToLine() {
    const line = $('ag-divide');
    let held = false;
    line.addEventListener('pointerdown', (e) => {
      held = true;
      line.setPointerCapture(e.pointerId);
      e.preventDefault();
      line.focus({ focusVisible: false });
    });
    line.addEventListener('pointermove', (e) => {
      if (!held) return;
      const box = $('ag-easel').getBoundingClientRect();
      const share = this.line.level ? (e.clientY - box.top) / box.height : (e.clientX - box.left) / box.width;
      this.moveTo(100 * share);
    });
    for (const event of ['pointerup', 'pointercancel'])
      line.addEventListener(event, () => {
        held = false;
      });
    line.addEventListener('keydown', (e) => {
      const step = e.shiftKey ? FINE : e.ctrlKey ? 10 * STEP : STEP;
      const to = {
        ArrowLeft: this.line.share - step,
        ArrowUp: this.line.share - step,
        ArrowRight: this.line.share + step,
        ArrowDown: this.line.share + step,
        Home: 0,
        End: 100,
      }[e.key];
      if (to === undefined) return;
      this.moveTo(to);
      e.preventDefault();
      e.stopPropagation();
    });
  }
}
