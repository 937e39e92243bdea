// Places of the frame and of the original picture, both as shares of their sides. The application tells where the
// frame lies in the original at a table of places; in between they lie on straight lines.

export class Places {
  constructor(table) {
    this.table = table;
  } // rows of [u, v]; null where the frame is the original

  toOriginal([x, y]) {
    if (!this.table) return [x, y];
    const last = this.table.length - 1;
    const cell = (v) => Math.min(last - 1, Math.max(0, Math.floor(v * last)));
    const [i, j] = [cell(x), cell(y)];
    const [fx, fy] = [x * last - i, y * last - j];
    const [a, b, c, d] = [this.table[j][i], this.table[j][i + 1], this.table[j + 1][i], this.table[j + 1][i + 1]];
    return [0, 1].map((k) => (a[k] * (1 - fx) + b[k] * fx) * (1 - fy) + (c[k] * (1 - fx) + d[k] * fx) * fy);
  }

  // the way back, by Newton's steps
  toFrame(place) {
    if (!this.table) return place;
    let [x, y] = [0.5, 0.5];
    const e = 1e-3;
    for (let k = 0; k < 12; k++) {
      const at = this.toOriginal([x, y]);
      const [px, py] = [this.toOriginal([x + e, y]), this.toOriginal([x, y + e])];
      const [a, b, c, d] = [(px[0] - at[0]) / e, (py[0] - at[0]) / e, (px[1] - at[1]) / e, (py[1] - at[1]) / e];
      const det = a * d - b * c;
      const [u, v] = [place[0] - at[0], place[1] - at[1]];
      [x, y] = [x + (d * u - b * v) / det, y + (a * v - c * u) / det];
    }
    return [x, y];
  }
}
