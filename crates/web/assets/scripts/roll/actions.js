// What is done to the chosen frames. Each can be taken back: by the message's button, or by Ctrl Z.
import { ask } from '../page/ask.js';
import { say } from '../page/messages.js';
import { ticked } from '../page/parts.js';
import { listenToQueue } from '../page/queue.js';
import { listenToOrders } from './orders.js';

const COPIED = 'ag-copied';
const MARKS = ['', 'keep', 'maybe', 'drop'];
const counted = (n) => `${n} frame${n === 1 ? '' : 's'}`;

export class Actions {
  constructor({ roll, sheet, selection, tools, dialogs }) {
    Object.assign(this, { roll, sheet, selection, tools, dialogs });
    this.last = null;
    const bar = document.getElementById('ag-chosenbar');
    bar.addEventListener('click', (e) => {
      const button = e.target.closest('[data-do], [data-mark]');
      if (!button) return;
      if (button.dataset.mark) this.mark(button.dataset.mark);
      else this.run(button.dataset.do);
    });
    this.buttons = [...bar.querySelectorAll('button')];
    selection.told.push(() => this.tell());
    sheet.told = () => this.tell();
    dialogs.on('ag-roll-export', (form) => this.export(form));
    listenToOrders(() => this.frames);
    listenToQueue();
    dialogs.on('ag-roll-rename', (form) => this.rename(form.pattern));
    dialogs.on('ag-roll-move', (form) => this.toRoll(+form.roll, form.copy === 'true'));
    dialogs.on('ag-roll-parts', () => this.paste(ticked(document.getElementById('ag-roll-parts-form'))));
    this.tell();
    this.announce();
  }

  // what was done on another page
  announce() {
    const said = JSON.parse(sessionStorage.getItem('ag-done') ?? 'null');
    sessionStorage.removeItem('ag-done');
    if (said) this.done(said.message, said.batch ? () => this.undo(said.batch) : null);
  }

  get frames() {
    return this.selection.meant;
  }

  tell() {
    const chosen = this.selection.ids.size;
    const here = this.sheet.cells.get(this.sheet.current)?.dataset.name;
    const words = chosen ? `${counted(chosen)} chosen` : (here ?? 'Nothing is chosen');
    document.getElementById('ag-chosen').textContent = words;
    this.buttons.forEach((button) => {
      button.disabled = this.frames.length === 0;
    });
  }

  done(message, undo) {
    this.last = undo;
    say(message, undo ? { action: { label: 'Undo', run: () => this.takeBack() } } : {});
  }

  takeBack() {
    const { last } = this;
    this.last = null;
    if (last) last();
    else say('There is nothing to undo here; a frame has its own history on the bench.');
  }

  run(what) {
    if (!this.frames.length) return;
    const { dialogs } = this;
    const acts = {
      open: () => this.open(),
      note: () => this.write('note'),
      presets: () => this.go(`/frames/${this.lead}/presets`),
      copy: () => this.copy(),
      paste: () => this.paste(),
      stock: () => this.backToStock(),
      meter: () => this.go(`/rolls/${this.roll}/metering?ids=${this.frames.join(',')}`),
      beside: () => this.beside(),
      export: () => dialogs.open('ag-roll-export'),
      rename: () => dialogs.open('ag-roll-rename'),
      roll: () => dialogs.open('ag-roll-move'),
      parts: () => this.chooseParts(),
      unmark: () => this.mark(''),
      off: () => this.takeOff(),
    };
    acts[what]?.();
  }

  // the frame on which one is, where it is among those that are meant
  get lead() {
    const { current } = this.sheet;
    return this.frames.includes(current) ? current : this.frames[0];
  }

  go(href) {
    this.tools.keep();
    location.href = href;
  }

  open(id = this.lead) {
    this.go(`/frames/${id}`);
  }

  beside() {
    if (this.frames.length < 2 || this.frames.length > 4) say('Choose two to four frames to see them side by side.');
    else this.go(`/rolls/${this.roll}/beside?ids=${this.frames.join(',')}`);
  }

  // ---- marks and words

  // without a mark: the one after that of the first frame
  async mark(mark) {
    const { frames, sheet } = this;
    const now = sheet.cells.get(frames[0])?.dataset.mark ?? '';
    const to = mark ?? MARKS[(MARKS.indexOf(now) + 1) % MARKS.length];
    await this.marks(Object.fromEntries(frames.map((id) => [id, to])), true);
  }

  async marks(marks, undoable) {
    const answer = await ask('/selection/marks', { json: { marks } });
    if (!answer) return;
    const { before } = await answer.json();
    await this.sheet.renew(Object.keys(marks).map(Number));
    if (undoable) this.last = () => this.marks(before, false);
  }

  async rename(pattern) {
    const { frames } = this;
    const answer = await ask('/selection/name', { json: { frames, pattern } });
    if (!answer) return false;
    const { before } = await answer.json();
    await this.sheet.renew(frames);
    this.done(`${counted(frames.length)} renamed.`, () => this.names(before));
    return true;
  }

  async names(names) {
    if (!(await ask('/selection/names', { json: { names } }))) return;
    await this.sheet.renew(Object.keys(names).map(Number));
    say('The old names are back.');
  }

  // ---- developments

  async changed(path, json) {
    const answer = await ask(`/selection/${path}`, { json });
    if (!answer) return false;
    const { message, batch, frames } = await answer.json();
    await this.sheet.renew(frames);
    this.done(message, batch ? () => this.undo(batch) : null);
    return true;
  }

  undo(batch) {
    return this.changed('undo', { batch });
  }

  backToStock() {
    return this.changed('stock', { frames: this.frames });
  }

  copy() {
    const from = this.lead;
    const name = this.sheet.cells.get(from)?.dataset.name ?? '';
    sessionStorage.setItem(COPIED, JSON.stringify({ from, name }));
    say(`${name} is copied: V lays its look on the chosen frames.`);
  }

  get copied() {
    const copied = JSON.parse(sessionStorage.getItem(COPIED) ?? 'null');
    if (!copied) say('Nothing is copied yet: stand on a frame and press C.');
    return copied;
  }

  async paste(parts) {
    const { copied } = this;
    return copied ? this.changed('copy', { frames: this.frames, from: copied.from, parts }) : false;
  }

  async chooseParts() {
    const { copied } = this;
    if (!copied) return;
    const answer = await ask(`/frames/${copied.from}/parts`, { method: 'GET' });
    if (!answer) return;
    document.querySelector('#ag-roll-parts [data-parts]').innerHTML = await answer.text();
    document.getElementById('ag-roll-parts-title').textContent = `Copy parts of ${copied.name}`;
    this.dialogs.open('ag-roll-parts');
  }

  async export(form) {
    const { frames } = this;
    const answer = await ask('/selection/exports', { json: { ...form, frames } });
    if (!answer) return false;
    const { batch } = await answer.json();
    const zip = { label: 'Save as ZIP', run: () => location.assign(`/exports/${batch}/zip`) };
    say(`${counted(frames.length)} put in the queue.`, { action: zip });
    htmx.trigger('#ag-exportlist', 'ag-exported');
    return true;
  }

  // ---- on and off rolls

  async takeOff() {
    const { frames } = this;
    if (!(await ask('/selection/off', { json: { frames, off: true } }))) return;
    this.tools.removed(frames);
    this.renewOff();
    this.done(`${counted(frames.length)} taken off. Nothing of them is lost.`, () => this.bringBack(frames));
  }

  async bringBack(frames) {
    if (!(await ask('/selection/off', { json: { frames, off: false } }))) return;
    await this.tools.ask();
    this.renewOff();
  }

  async renewOff() {
    const answer = await ask(`/rolls/${this.roll}/off`, { method: 'GET' });
    if (answer) document.getElementById('ag-off').outerHTML = await answer.text();
  }

  async toRoll(roll, copy) {
    const { frames } = this;
    const answer = await ask('/selection/roll', { json: { frames, roll, copy } });
    if (!answer) return false;
    const there = (await answer.json()).frames;
    const name = document.querySelector(`.ag-roll[href="/rolls/${roll}"]`)?.dataset.rollName ?? 'the roll';
    if (!copy && roll !== this.roll) this.tools.removed(frames);
    else if (roll === this.roll) await this.tools.ask();
    const back = async () => {
      const undone = copy
        ? await ask('/selection/off', { json: { frames: there, off: true } })
        : await ask('/selection/roll', { json: { frames: there, roll: this.roll, copy: false } });
      if (undone) await this.tools.ask();
    };
    this.done(`${counted(frames.length)} ${copy ? 'copied' : 'moved'} to ${name}.`, back);
    return true;
  }
}
