// Which rows of a long contact sheet are drawn, which frames lie between two, at which zoom step a frame fills a room.
import assert from 'node:assert/strict';
import test from 'node:test';

import { levelFor } from '../../assets/scripts/picture/levels.js';
import { between, rowsSeen } from '../../assets/scripts/roll/rows.js';

test('rows that are seen, and some around them', () => {
  assert.deepEqual(rowsSeen(0, 600, 100, 833, 2), [0, 8]);
  assert.deepEqual(rowsSeen(5000, 600, 100, 833, 2), [48, 58]);
  assert.deepEqual(rowsSeen(82_700, 600, 100, 833, 2), [825, 833]);
  assert.deepEqual(rowsSeen(9_999_999, 600, 100, 3, 2), [2, 3]);
  assert.deepEqual(rowsSeen(0, 600, 0, 5, 2), [0, 1]);
  assert.deepEqual(rowsSeen(0, 600, 0, 0, 2), [0, 0]);
});

test('frames between two places, either way round', () => {
  const ids = [7, 8, 9, 10];
  assert.deepEqual(between(ids, 1, 2), [8, 9]);
  assert.deepEqual(between(ids, 3, 1), [8, 9, 10]);
  assert.deepEqual(between(ids, 2, 2), [9]);
  assert.deepEqual(between(ids, -1, 2), [9]);
});

test('a step has at least a pixel for every pixel of the room', () => {
  for (const [size, room] of [
    [
      [6000, 4000],
      [1000, 484],
    ],
    [
      [2000, 3000],
      [500, 484],
    ],
    [
      [300, 200],
      [1000, 484],
    ],
  ]) {
    const level = levelFor(size, room);
    const scale = Math.min(1, room[0] / size[0], room[1] / size[1]);
    assert.ok(0.5 ** (level / 2) >= scale - 1e-9 || level === 1, `${size}: ${level}`);
    assert.ok(level >= 1 && level <= 12);
  }
});
