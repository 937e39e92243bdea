import assert from 'node:assert/strict';
import { test } from 'node:test';

globalThis.document = { getElementById: () => null };
const { Densitometer } = await import('../../assets/scripts/picture/densitometer.js');

// a plane of 8 x 6 whose numbers name their quantity, row and column
const plane = { width: 8, height: 6, layers: 3, numbers: new Int16Array(11 * 48) };
for (let k = 0; k < 11; k++) {
  for (let y = 0; y < 6; y++) {
    for (let x = 0; x < 8; x++) plane.numbers[(k * 6 + y) * 8 + x] = 1000 * k + 10 * y + x;
  }
}
const meter = Object.assign(Object.create(Densitometer.prototype), { plane });

test('a reading is the mean of the 25 numbers around its own place', () => {
  assert.equal(meter.mean(0, 3, 3), 33);
  assert.equal(meter.mean(7, 4, 2), 7024);
});

test('at the border the mean is of what is there', () => {
  assert.equal(meter.mean(0, 0, 0), 11);
  assert.equal(meter.mean(1, 7, 5), 1000 + 40 + 6);
});
