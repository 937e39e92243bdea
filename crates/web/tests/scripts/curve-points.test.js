import assert from 'node:assert/strict';
import { test } from 'node:test';
import { MOST, moved, pieces, read, sound, straight, write } from '../../assets/scripts/controls/curve-points.js';

test('points are read and written', () => {
  assert.equal(write(read(' 0,0  50,60.04 100,100 ')), '0,0 50,60 100,100');
  assert.ok(straight(read('0,0 100,100')));
  assert.ok(!straight(read('0,0 50,60 100,100')));
});

test('what is no curve is refused', () => {
  for (const wrong of ['0,0', '0,0 0,5', '50,0 20,10', '0,0 101,5', '0,0 a,5', '0 1', '']) {
    assert.ok(!sound(read(wrong)), wrong);
  }
  const many = Array.from({ length: MOST + 1 }, (_, i) => [i, i]);
  assert.ok(!sound(many) && sound(many.slice(1)));
});

test('a point stays between its neighbours and in the square', () => {
  const points = read('0,0 50,60 100,100');
  assert.deepEqual(moved(points, 1, [120, 130]), [
    [0, 0],
    [99.5, 100],
    [100, 100],
  ]);
  assert.deepEqual(moved(points, 1, [-5, -5])[1], [0.5, 0]);
  assert.deepEqual(points[1], [50, 60], 'what it was stays');
});

// the drawn curve never turns back where its points do not
test('between rising points the drawn curve rises', () => {
  const at = ([a, b, c, d], t) =>
    [0, 1].map((k) => {
      const [s, u] = [1 - t, t];
      return s * s * s * a[k] + 3 * s * s * u * b[k] + 3 * s * u * u * c[k] + u * u * u * d[k];
    });
  for (const text of ['0,0 10,1 20,90 100,100', '0,20 40,20 41,80 100,80', '0,0 30,70 50,72 100,100']) {
    let last = [-1, -1];
    for (const piece of pieces(read(text))) {
      for (let i = 0; i <= 20; i++) {
        const [x, y] = at(piece, i / 20);
        assert.ok(x >= last[0] - 1e-9 && y >= last[1] - 1e-9, `${text} at ${x}`);
        last = [x, y];
      }
    }
    assert.deepEqual(last.map(Math.round), read(text).at(-1));
  }
});

test('no piece leaves the space between its ends, at a peak neither', () => {
  for (const text of ['0,0 50,60 70,40 100,100', '0,100 20,30 30,31 60,5 100,5', '0,50 10,90 90,88 100,0']) {
    for (const [a, b, c, d] of pieces(read(text))) {
      const [low, high] = [Math.min(a[1], d[1]), Math.max(a[1], d[1])];
      for (const handle of [b, c]) assert.ok(handle[1] >= low - 1e-9 && handle[1] <= high + 1e-9, `${text}: ${handle}`);
    }
  }
});
