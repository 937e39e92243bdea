// The strip on the picture: its bands or cells, their captions outside it, and the mark of the one that is picked.

export function paintStrip(g, [left, top, w, h], { cells, pick, kind, isApart }) {
  const style = getComputedStyle(document.documentElement);
  const light = document.documentElement.dataset.surround === 'light';
  const ink = light ? '#0c0c0c' : '#f2f2f0';
  if (isApart) {
    g.fillStyle = style.getPropertyValue('--surround');
    g.fillRect(left - 1, top - 1, w + 2, h + 2);
  }
  g.font = '500 11px Archivo';
  g.textBaseline = 'middle';
  cells.forEach((cell, i) => {
    const [x, y, cw, ch] = [cell.rect[0] * w + left, cell.rect[1] * h + top, cell.rect[2] * w, cell.rect[3] * h];
    if (cell.bitmap) paintCell(g, cell, [x, y, cw, ch]);
    if (i === pick) paintPick(g, kind, [x, y, cw, ch]);
    const down = kind === 'down';
    const [tx, ty] = down ? [left + w + 8, y + ch / 2] : [x + cw / 2, y + ch + 10];
    g.textAlign = down ? 'left' : 'center';
    g.fillStyle = ink;
    g.fillText((cell.now ? '▸ ' : '') + cell.caption, tx, ty, down ? 90 : cw);
  });
}

function paintCell(g, cell, [x, y, w, h]) {
  const [px, py, pw, ph] = cell.part;
  const [sx, sy, sw, sh] = cell.shown;
  const [kx, ky] = [w / sw, h / sh];
  g.save();
  g.beginPath();
  g.rect(x, y, w, h);
  g.clip();
  g.imageSmoothingEnabled = true;
  g.imageSmoothingQuality = 'high';
  g.drawImage(cell.bitmap, x + (px - sx) * kx, y + (py - sy) * ky, pw * kx, ph * ky);
  g.restore();
}

// the best band: marked at its ends, outside what is judged
function paintPick(g, kind, [x, y, w, h]) {
  const dark = 'rgba(0,0,0,.7)';
  for (const [colour, width] of [
    [dark, 4],
    ['#fff', 2],
  ]) {
    g.strokeStyle = colour;
    g.lineWidth = width;
    g.beginPath();
    if (kind === 'down' || kind === 'ring') {
      g.moveTo(x - 4, y + 1);
      g.lineTo(x - 4, y + h - 1);
    } else {
      g.moveTo(x + 1, y - 4);
      g.lineTo(x + w - 1, y - 4);
    }
    g.stroke();
  }
  g.lineWidth = 1;
}
