// How many zoom steps smaller than half the size the pictures of a moving control are made, so that they follow the
// hand whatever is switched on.

const SLOW_MS = 42; // a picture that takes longer than this on the whole is made smaller
const QUICK_MS = 16; // and larger again where it takes no longer than this
const MOST = 2;

export class Pace {
  coarser = 0;
  taken = null; // milliseconds that a picture takes, the last ones weighing most

  took(ms) {
    this.taken = this.taken === null ? ms : 0.5 * (this.taken + ms);
    const step = this.taken > SLOW_MS ? 1 : this.taken < QUICK_MS ? -1 : 0;
    const next = Math.min(MOST, Math.max(0, this.coarser + step));
    if (next !== this.coarser) this.taken = null;
    this.coarser = next;
  }
}
