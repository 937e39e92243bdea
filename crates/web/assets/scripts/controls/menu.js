// What can be done with a control, on its other button: type, back to the stock, a test strip, its page in the guide.
const $ = (id) => document.getElementById(id);

export class Menu {
  // `back(id)`, `strip(control)` and `guide(id)` do it
  constructor({ back, strip, guide }) {
    Object.assign(this, { back, strip, guide });
    this.menu = $('ag-control-menu');
    document.addEventListener('contextmenu', (e) => this.open(e));
    document.addEventListener('pointerdown', (e) => {
      if (!e.target.closest('#ag-control-menu')) this.close();
    });
    document.addEventListener('keydown', (e) => this.key(e), { capture: true });
    this.menu.addEventListener('click', (e) => {
      const act = e.target.closest('button')?.dataset.act;
      if (act) this.act(act);
    });
  }

  open(e) {
    const control = e.target.closest('#ag-bench [data-control]');
    if (!control) return;
    e.preventDefault();
    this.control = control;
    this.opener = document.activeElement;
    this.menu.querySelector('[data-act=type]').hidden = !control.querySelector('input:not([type=checkbox])');
    this.menu.querySelector('[data-act=strip]').hidden = !control.matches('.ag-ctl');
    this.menu.hidden = false;
    const box = control.getBoundingClientRect();
    // from the keyboard there is no place of a pointer
    const [x, y] = e.clientX || e.clientY ? [e.clientX, e.clientY] : [box.left + 20, box.bottom];
    const { offsetWidth: w, offsetHeight: h } = this.menu;
    this.menu.style.left = `${Math.min(x, window.innerWidth - w - 8)}px`;
    this.menu.style.top = `${Math.min(y, window.innerHeight - h - 8)}px`;
    this.menu.querySelector('button:not([hidden])').focus();
  }

  close() {
    if (this.menu.hidden) return;
    const inside = this.menu.contains(document.activeElement);
    this.menu.hidden = true;
    if (inside && this.opener?.isConnected) this.opener.focus();
  }

  act(act) {
    const { control } = this;
    this.close();
    const id = control.dataset.control;
    if (act === 'type') {
      const field = control.querySelector('input:not([type=checkbox])');
      field.focus();
      field.select?.();
    }
    if (act === 'back') this.back(id);
    if (act === 'strip') {
      control.querySelector('.ag-track').focus();
      this.strip(control);
    }
    if (act === 'guide') this.guide(id);
  }

  key(e) {
    if (this.menu.hidden) return;
    const items = [...this.menu.querySelectorAll('button:not([hidden])')];
    const at = items.indexOf(document.activeElement);
    const to = { ArrowDown: at + 1, ArrowUp: at - 1 + items.length, Home: 0, End: items.length - 1 }[e.key];
    if (to !== undefined) items[to % items.length].focus();
    if (e.key === 'Escape' || e.key === 'Tab') this.close();
    if (to !== undefined || e.key === 'Escape') e.preventDefault();
    if (e.key !== 'Enter' && e.key !== ' ') e.stopPropagation();
  }
}
