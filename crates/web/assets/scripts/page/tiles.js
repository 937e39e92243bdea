// Tiles of a board: filled a few at a time, from the first to the last, so that nothing else waits for long.
const AT_ONCE = 3;

// `filled(count, all)` is told after each of them
export function fillTiles(tiles, { filled = () => {}, failed = () => {} } = {}) {
  const waiting = [...tiles];
  let count = 0;
  const next = () => {
    const tile = waiting.shift();
    if (!tile) return;
    const image = tile.querySelector('img');
    const picture = new Image();
    const done = () => {
      if (picture.naturalWidth) {
        image.src = picture.src;
        image.classList.remove('ag-waiting');
      }
      count += 1;
      filled(count, tiles.length);
      next();
    };
    picture.addEventListener('load', done);
    picture.addEventListener('error', () => {
      failed();
      done();
    });
    picture.src = image.dataset.src;
  };
  for (let i = 0; i < AT_ONCE; i++) next();
}
