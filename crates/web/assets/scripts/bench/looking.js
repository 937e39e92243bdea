// How the picture is looked at: one effect by itself, fitted or 1:1, the surround.
const $ = (id) => document.getElementById(id);

const ALONE = {
  bloom: 'Bloom alone: the light that it lays over the scene',
  halation: 'Halation alone: the light that the base throws back',
  grain: 'Grain alone, on mid grey',
};
const NEXT_SURROUND = { dark: 'mid', mid: 'light', light: 'dark' };

export class Looking {
  constructor(view) {
    this.view = view;
    $('ag-fit').addEventListener('click', () => view.fit());
    $('ag-one').addEventListener('click', () => view.oneToOne());
    document.addEventListener('click', (e) => this.click(e));
    this.surround(localStorage.getItem('ag-surround') ?? 'mid');
  }

  click(e) {
    const alone = e.target.closest('[data-alone]');
    if (alone) this.alone(alone.dataset.alone);
    const surround = e.target.closest('button[data-surround]');
    if (surround) this.surround(surround.dataset.surround);
  }

  tell(text) {
    $('ag-tag').hidden = !text;
    $('ag-tag').textContent = text;
  }

  get isAlone() {
    return this.view.shown in ALONE;
  }

  // one effect by itself, until the button is pressed again
  alone(what) {
    const on = this.view.shown !== what;
    this.view.show(on ? what : 'developed');
    this.tell(on ? ALONE[what] : '');
    this.mark();
  }

  mark() {
    document.querySelectorAll('[data-alone]').forEach((b) => {
      b.setAttribute('aria-pressed', this.view.shown === b.dataset.alone);
    });
  }

  surround(name = NEXT_SURROUND[document.documentElement.dataset.surround]) {
    document.documentElement.dataset.surround = name;
    localStorage.setItem('ag-surround', name);
    document.querySelectorAll('.ag-swatches button').forEach((b) => {
      b.setAttribute('aria-pressed', b.dataset.surround === name);
    });
  }
}
