import assert from 'node:assert/strict';
import { test } from 'node:test';
import { patchOf, step } from '../../assets/scripts/match/patch.js';

test('a patch lies between two places, whichever comes first', () => {
  const close = (a, b) => a.every((v, i) => Math.abs(v - b[i]) < 1e-9);
  assert.ok(close(patchOf([0.5, 0.6], [0.2, 0.3]), [0.2, 0.3, 0.3, 0.3]));
  assert.ok(close(patchOf([0.5, 0.5], [0.5, 0.5]), [0.5, 0.5, 0.02, 0.02]));
  assert.ok(close(patchOf([0.95, -0.1], [1.2, 0.1]), [0.75, 0, 0.25, 0.2]));
});

test('arrows move, with Shift by more', () => {
  assert.deepEqual(step({ key: 'ArrowLeft' }), [-0.01, 0]);
  assert.deepEqual(step({ key: 'ArrowDown', shiftKey: true }), [0, 0.05]);
  assert.equal(step({ key: 'a' }), null);
});
