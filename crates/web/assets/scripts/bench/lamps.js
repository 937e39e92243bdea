// Lamps: stations and groups switched off and on again. Their values stay; one press is one step.
import { declared } from '../page/declared.js';
import { say } from '../page/messages.js';

export class Lamps {
  // `look()` shows what is in force now
  constructor({ frame, store, look }) {
    Object.assign(this, { frame, store, look });
    document.addEventListener('click', (e) => {
      const lamp = e.target.closest('[data-lamp]');
      if (lamp) this.toggle(lamp.dataset.lamp);
    });
  }

  isOn(id) {
    return !this.frame.off.includes(id);
  }

  toggle(id) {
    // a run of keys that is still to be kept is a step of its own
    this.store.flush();
    const off = this.isOn(id);
    this.frame.off = off ? [...this.frame.off, id] : this.frame.off.filter((other) => other !== id);
    this.mark();
    this.look();
    this.store.commit(true);
    if (off && declared.without[id]) say(declared.without[id]);
  }

  allOn() {
    this.frame.off = [];
    this.mark();
  }

  // what stands on the page answers at once
  mark() {
    for (const lamp of document.querySelectorAll('[data-lamp]')) {
      const on = this.isOn(lamp.dataset.lamp);
      lamp.setAttribute('aria-pressed', on);
      lamp.querySelector('i').className = `bi ${on ? 'bi-circle-fill' : 'bi-circle'}`;
    }
  }
}
