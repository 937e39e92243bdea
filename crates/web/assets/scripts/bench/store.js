// The one owner of a frame's state: values, lamps, masks, revision. Steps are kept one after another; what is shown is
// kept, whichever way the page is left.
import { say } from '../page/messages.js';

// a run of key presses is one step: kept a moment after the last one, or before anything else happens
const RUN_MS = 400;
// what browsers send for a page that is gone
const KEEPALIVE_BYTES = 60_000;

// only the masks that were changed are sent: they may hold many strokes
const written = (masks) => new Map(Object.entries(masks).map(([id, mask]) => [id, JSON.stringify(mask)]));
const same = (a, b) => a.size === b.size && [...a].every(([id, text]) => b.get(id) === text);

export class Store {
  // `where()` says what lies on the bench; `resting()` is told before a step is kept
  constructor(frame, { where, resting }) {
    Object.assign(this, { frame, where, resting });
    this.committing = Promise.resolve();
    this.queued = 0;
    this.failed = false;
    this.others = ''; // frames that follow, with commas between
    this.running = null;
    this.keptMasks = this.sentMasks = written(frame.masks);
    document.addEventListener('click', (e) => this.follow(e));
    window.addEventListener('pagehide', () => this.parting());
  }

  get values() {
    return this.frame.values;
  }

  // a stock's own value of a control that is a number; the application drops what equals it
  own(id) {
    return this.frame.own[id] ?? 0;
  }

  // a value moved; the stock's own is not kept
  set(id, value, own = value === this.own(id)) {
    if (own || value === undefined) delete this.frame.values[id];
    else this.frame.values[id] = value;
  }

  // what waits comes first
  keepSoon() {
    clearTimeout(this.running);
    this.running = setTimeout(() => this.flush(), RUN_MS);
  }

  flush() {
    if (this.running === null) return;
    clearTimeout(this.running);
    this.running = null;
    this.resting();
    this.commit();
  }

  get unsaved() {
    return this.running !== null || this.queued > 0;
  }

  post(path, values) {
    this.flush();
    // one at a time: each answer brings the revision that the next one needs
    this.queued += 1;
    this.failed = false;
    const send = () => {
      const sent = { revision: this.frame.revision, ...this.where(), ...values };
      return htmx.ajax('POST', `/frames/${this.frame.id}/${path}`, {
        source: document.body,
        swap: 'none',
        values: sent,
      });
    };
    this.committing = this.committing
      .then(() => send().catch(() => {}))
      .finally(() => {
        this.queued -= 1;
      });
    return this.committing;
  }

  // the bench is to be drawn anew after what is kept next: what was changed shows elsewhere on it too
  renew() {
    this.renewed = true;
  }

  commit(asked = false) {
    const store = this;
    const anew = asked || this.renewed === true || this.where().station.startsWith('log');
    this.renewed = false;
    return this.post('development', {
      anew,
      others: this.others,
      get values() {
        return JSON.stringify(store.frame.values);
      },
      get off() {
        return JSON.stringify(store.frame.off);
      },
      get masks() {
        return store.masksToSend();
      },
    });
  }

  step(step) {
    return this.post('step', { step, together: this.others !== '' });
  }

  // values back to the stock's own
  returned(ids) {
    for (const id of ids) delete this.frame.values[id];
  }

  // ---- masks

  get masksChanged() {
    return !same(written(this.frame.masks), this.keptMasks);
  }

  masksToSend() {
    this.sentMasks = written(this.frame.masks);
    if (same(this.sentMasks, this.keptMasks)) return '';
    const changed = [...this.sentMasks].filter(([id, text]) => this.keptMasks.get(id) !== text);
    const gone = [...this.keptMasks.keys()].filter((id) => !this.sentMasks.has(id)).map((id) => [id, 'null']);
    return `{${[...changed, ...gone].map(([id, text]) => `${JSON.stringify(id)}:${text}`).join(',')}}`;
  }

  adopt(masks) {
    this.frame.masks = masks;
    this.keptMasks = this.sentMasks = written(masks);
  }

  // ---- what comes back

  // takes what the application kept; says which parts of it are news
  kept({ revision, values, off, masks, stock, anew, own }) {
    this.frame.revision = revision;
    if (own) this.frame.own = own;
    // what was done since then is on its way: an older answer must not undo it
    const takes = anew && this.queued <= 1;
    const drawn = !anew && !same(this.sentMasks, this.keptMasks);
    this.keptMasks = this.sentMasks;
    if (takes) Object.assign(this.frame, { values, off });
    if (takes && masks && !this.masksChanged) this.adopt(masks);
    const changedStock = stock !== this.frame.stock;
    this.frame.stock = stock;
    return { takes, drawn, changedStock };
  }

  refused({ status, responseText }) {
    this.failed = true;
    const reload = { label: 'Reload', run: () => location.reload() };
    const elsewhere = status === 409 && /elsewhere/.test(responseText);
    say(responseText || 'That did not work.', { problem: true, action: elsewhere ? reload : undefined });
  }

  // ---- leaving the page

  leave(href) {
    this.flush();
    this.committing.then(() => {
      if (!this.failed) location.href = href;
    });
  }

  follow(e) {
    const link = e.target.closest?.('a[href]');
    if (!link || e.defaultPrevented || e.ctrlKey || e.metaKey || e.shiftKey || link.target || link.download) return;
    if (!this.unsaved) return;
    e.preventDefault();
    this.leave(link.href);
  }

  parting() {
    if (this.running === null && this.queued < 2) return;
    clearTimeout(this.running);
    this.running = null;
    const revision = this.frame.revision + Math.min(this.queued, 1);
    const values = JSON.stringify(this.frame.values);
    const [off, masks] = [JSON.stringify(this.frame.off), this.masksToSend()];
    const kept = { values, off, masks, others: this.others };
    const body = new URLSearchParams({ revision, ...this.where(), anew: false, ...kept });
    const keepalive = body.toString().length < KEEPALIVE_BYTES;
    fetch(`/frames/${this.frame.id}/development`, { method: 'POST', body, keepalive });
  }
}
