// How the page shares its room: the bench under the picture or beside it, the readings, and the picture alone.

const SHORT = 900; // pixels of height under which an upright picture has the bench beside it at first
const NARROW = 1100; // pixels of width under which the readings wait to be asked for
const TWICE_MS = 350; // between the two taps that lock the picture alone

// where the bench stands as long as nobody has said
export const isBesideAtFirst = ({ width, height }, windowHeight) => height > width && windowHeight < SHORT;

// what the key of the picture alone does next: held it is a look, tapped twice it stays until it is tapped again
export class Alone {
  held = false;
  locked = false;
  tapped = -Infinity;

  get on() {
    return this.held || this.locked;
  }

  down(now) {
    if (this.held) return;
    this.held = true;
    if (this.locked) {
      this.locked = false;
      this.tapped = -Infinity;
      return;
    }
    this.locked = now - this.tapped < TWICE_MS;
    this.tapped = this.locked ? -Infinity : now;
  }

  up() {
    this.held = false;
  }

  press() {
    this.locked = !this.locked;
  }
}

export class Layout {
  constructor({ frame }) {
    this.frame = frame;
    this.app = document.getElementById('ag-app');
    this.alone = new Alone();
    const unread = localStorage.getItem('ag-unread') ?? String(window.innerWidth < NARROW);
    this.show({ beside: this.remembered(), unread: unread === 'true' });
    document.addEventListener('click', (e) => this.click(e));
    window.addEventListener('blur', () => this.look(false));
  }

  // remembered apart for upright and for wide frames
  get name() {
    return this.frame.height > this.frame.width ? 'ag-beside-upright' : 'ag-beside-wide';
  }

  remembered() {
    const said = localStorage.getItem(this.name);
    return said === null ? isBesideAtFirst(this.frame, window.innerHeight) : said === 'true';
  }

  show({ beside = this.is('beside'), unread = this.is('unread') }) {
    this.app.classList.toggle('ag-beside', beside);
    this.app.classList.toggle('ag-unread', unread);
    this.app.classList.toggle('ag-alone', this.alone.on);
    const pressed = { beside, readings: !unread, alone: this.alone.on };
    for (const button of document.querySelectorAll('[data-room]'))
      button.setAttribute('aria-pressed', pressed[button.dataset.room]);
  }

  is(name) {
    return this.app.classList.contains(`ag-${name}`);
  }

  click(e) {
    const room = e.target.closest('[data-room]')?.dataset.room;
    if (room === 'beside') this.beside();
    if (room === 'readings') this.readings();
    if (room === 'alone') {
      this.alone.press();
      this.show({});
    }
  }

  beside() {
    const beside = !this.is('beside');
    localStorage.setItem(this.name, beside);
    this.app.classList.remove('ag-closed');
    this.show({ beside });
  }

  readings() {
    const unread = !this.is('unread');
    localStorage.setItem('ag-unread', unread);
    this.show({ unread });
  }

  // the picture alone while the key is held
  look(on) {
    if (on) this.alone.down(performance.now());
    else this.alone.up();
    this.show({});
  }
}
