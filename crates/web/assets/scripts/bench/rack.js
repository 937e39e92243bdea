// The rack: proofs kept, taken back, named, dropped. What is chosen there is compared (compare.js).
import { ask } from '../page/ask.js';
import { say } from '../page/messages.js';

const $ = (id) => document.getElementById(id);

export class Rack {
  // `swapped()` is told when the prints were drawn anew
  constructor({ frame, store, compare, swapped }) {
    Object.assign(this, { frame, store, compare, swapped });
    const rack = $('ag-rack');
    rack.addEventListener('click', (e) => {
      const act = e.target.closest('button[data-proof-act]')?.dataset.proofAct;
      if (act === 'keep') this.keep();
      if (act === 'take') this.take(this.idOf(e.target));
      if (act === 'name') this.rename(this.idOf(e.target));
      if (act === 'drop') this.drop(this.idOf(e.target));
    });
    rack.addEventListener('dblclick', (e) => {
      const print = e.target.closest('button[data-print]');
      if (print && this.idOf(print)) this.take(this.idOf(print));
    });
    rack.addEventListener('keydown', (e) => {
      const print = e.target.closest?.('button[data-print]');
      if (!print || e.key !== 'Delete' || !this.idOf(print)) return;
      this.drop(this.idOf(print));
      e.preventDefault();
    });
    $('ag-frames').addEventListener('click', (e) => {
      const chosen = e.target.closest('[data-against]');
      if (chosen) this.hang(chosen);
    });
  }

  idOf(element) {
    return element.closest('[data-proof]')?.dataset.proof;
  }

  // the application draws the prints anew
  async ask(path, asked) {
    const answer = await ask(`/frames/${this.frame.id}/proofs${path}`, asked);
    if (!answer) return false;
    const drawn = document.createElement('template');
    drawn.innerHTML = await answer.text();
    const prints = drawn.content.querySelector('#ag-prints');
    prints.removeAttribute('hx-swap-oob');
    $('ag-prints').replaceWith(prints);
    this.swapped();
    return true;
  }

  // what is shown is what is kept: steps that are on their way come first
  async keep() {
    this.store.flush();
    await this.store.committing;
    if (!(await this.ask('', { form: {} }))) return;
    const kept = [...document.querySelectorAll('button[data-print^="proof:"]')].at(-1);
    kept?.scrollIntoView({ block: 'nearest' });
    say(`Kept as ${kept?.dataset.name}.`);
  }

  take(id) {
    this.compare.develop('');
    this.store.post(`proofs/${id}/take`, {});
  }

  async drop(id) {
    const of = `proof:${id}`;
    const { name } = document.querySelector(`[data-print="${of}"]`).dataset;
    if (this.compare.view.of === of) this.compare.develop('');
    if (this.compare.against === of) this.compare.choose('original');
    if (!(await this.ask(`/${id}`, { method: 'DELETE' }))) return;
    const undo = { label: 'Undo', run: () => this.ask(`/${id}/back`, { form: {} }) };
    say(`${name} dropped.`, { action: undo });
  }

  // the name becomes a field until it is typed
  rename(id) {
    const print = document.querySelector(`[data-print="proof:${id}"]`);
    const field = document.createElement('input');
    Object.assign(field, { className: 'ag-field', value: print.dataset.name, maxLength: 120 });
    field.setAttribute('aria-label', `Name of ${print.dataset.name}`);
    const done = (take) => {
      if (!field.isConnected) return;
      const name = field.value.trim();
      if (take && name && name !== print.dataset.name) this.ask(`/${id}/name`, { form: { name } });
      else {
        field.replaceWith(print);
        print.focus();
      }
    };
    field.addEventListener('keydown', (e) => {
      if (e.key === 'Enter') done(true);
      if (e.key === 'Escape') done(false);
      e.stopPropagation();
    });
    field.addEventListener('blur', () => done(true));
    print.replaceWith(field);
    field.select();
  }

  // another frame of the roll hangs on the rack as long as the page is open
  hang({ dataset }) {
    const of = `frame:${dataset.against}`;
    document.querySelector('[data-print^="frame:"]')?.closest('.ag-hung').remove();
    const made = $('ag-hungprint').content.cloneNode(true);
    const print = made.querySelector('button');
    Object.assign(print.dataset, { print: of, name: dataset.name });
    print.querySelector('img').src = dataset.picture;
    print.querySelector('span').textContent = dataset.name;
    $('ag-prints').append(made);
    print.scrollIntoView({ block: 'nearest' });
    window.bootstrap.Modal.getInstance($('ag-frames'))?.hide();
    this.compare.choose(of);
    if (this.compare.how !== 'side') this.compare.side();
  }
}
