// Sensitivity by hue, picked on the picture: press, drag up for lighter or down for darker.
const PER_PIXEL = 1 / 80; // stops
const LIMIT = 3;

export class HuePicker {
  constructor(frame, canvas, view, { values, moved, rested, tell }) {
    Object.assign(this, { frame, canvas, view, values, moved, rested, tell });
    this.on = false;
    canvas.addEventListener('pointerdown', (e) => this.press(e), { capture: true });
    canvas.addEventListener('pointermove', (e) => this.drag(e), { capture: true });
    for (const end of ['pointerup', 'pointercancel']) canvas.addEventListener(end, (e) => this.release(e), { capture: true });
  }

  toggle(on = !this.on) {
    this.on = on;
    this.canvas.classList.toggle('ag-picking', on);
    document.querySelectorAll('[data-pick]').forEach((b) => b.setAttribute('aria-pressed', on));
    this.tell(on ? 'Press on the picture and drag up for lighter, down for darker.' : '');
  }

  async press(e) {
    if (!this.on || e.button !== 0) return;
    e.stopImmediatePropagation();
    e.preventDefault();
    this.canvas.setPointerCapture(e.pointerId);
    const box = this.canvas.getBoundingClientRect();
    const [x, y] = this.view.toFrame([e.clientX - box.left, e.clientY - box.top]);
    const place = [x / this.frame.width, y / this.frame.height];
    const held = { y: e.clientY, dy: 0, start: { ...this.values() } };
    this.held = held;
    const answer = await fetch(`/frames/${this.frame.id}/hues`, {
      method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ values: held.start, place }),
    }).catch(() => null);
    if (!answer?.ok || this.held !== held) return;
    const shares = (await answer.json()).filter((h) => h.share > 0.02).sort((a, b) => b.share - a.share);
    if (!shares.length) { this.tell('A grey has no hue to move.'); return; }
    held.shares = shares.map((h) => ({ ...h, part: h.share / shares[0].share }));
    this.apply(held);
  }

  drag(e) {
    if (!this.held) return;
    e.stopImmediatePropagation();
    this.held.dy = this.held.y - e.clientY;
    this.apply(this.held);
  }

  apply(held) {
    if (!held.shares) return;
    const changed = {};
    for (const h of held.shares) {
      const from = Number(held.start[h.id] ?? 0);
      changed[h.id] = Number(Math.min(LIMIT, Math.max(-LIMIT, from + held.dy * PER_PIXEL * h.part)).toFixed(2));
    }
    const names = held.shares.map((h) => `${h.label} ${Math.round(100 * h.share)} %`).join(', ');
    const stops = held.dy * PER_PIXEL;
    this.tell(`${names}: ${stops < 0 ? '−' : '+'}${Math.abs(stops).toFixed(2)} EV`);
    if (held.dy !== 0) { held.changed = changed; this.moved(changed); }
  }

  release(e) {
    if (!this.held) return;
    e.stopImmediatePropagation();
    const { changed } = this.held;
    this.held = null;
    if (changed) this.rested(changed);
  }
}
