// Metering: the proposal lies on the bench, the picture shows it; nothing is taken before it is taken.
import { ask } from '../page/ask.js';

const $ = (id) => document.getElementById(id);

export class Metering {
  // `look(values)` shows values without keeping them; `take(values)` keeps them; `leave()` brings the bench back
  constructor({ frame, values, look, take, leave, tell, complain }) {
    Object.assign(this, { frame, values, look, take, leave, tell, complain });
    document.addEventListener('click', (e) => {
      const button = e.target.closest?.('[data-metered]');
      if (button) this.act(button.dataset.metered);
    });
  }

  get bench() {
    return document.querySelector('#ag-bench[data-metering]');
  }
  get proposed() {
    return JSON.parse(this.bench.dataset.metering);
  }

  async open() {
    if (this.bench) {
      this.act('leave');
      return;
    }
    const answer = await ask(`/frames/${this.frame.id}/metering`, {
      json: { values: this.values(), off: this.frame.off },
    });
    if (!answer) return;
    $('ag-bench').outerHTML = await answer.text();
    this.act('after');
    (
      this.bench.querySelector('[data-metered=take]:not([disabled])') ??
      this.bench.querySelector('[data-metered=leave]')
    ).focus({ focusVisible: true });
  }

  act(what) {
    if (what === 'take') {
      const values = this.proposed;
      this.tell('');
      this.take(values);
    } else if (what === 'leave') {
      this.tell('');
      this.look({});
      this.leave();
    } else {
      this.bench
        .querySelectorAll('[data-metered=before],[data-metered=after]')
        .forEach((b) => b.setAttribute('aria-pressed', b.dataset.metered === what));
      this.look(what === 'after' ? this.proposed : {});
      this.tell(what === 'after' ? 'As metered, not taken yet' : 'As it is');
    }
  }
}
