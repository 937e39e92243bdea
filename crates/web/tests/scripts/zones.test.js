import assert from 'node:assert/strict';
import { test } from 'node:test';
import { placed } from '../../assets/scripts/faces/zone-steps.js';

const range = { low: -3, high: 3, step: 0.05 };
const none = Array(11).fill(0);

test('neighbours follow half the way, or stay', () => {
  assert.deepEqual(placed(none, 5, 0.5, { range }).slice(3, 8), [0, 0.25, 0.5, 0.25, 0]);
  assert.deepEqual(placed(none, 5, 0.5, { range, alone: true }).slice(3, 8), [0, 0, 0.5, 0, 0]);
  assert.deepEqual(placed(none, 0, -0.5, { range }).slice(0, 3), [-0.5, -0.25, 0]);
});

test('a patch may lie on another, but not pass it', () => {
  assert.equal(placed(none, 5, 2.5, { range, alone: true })[5], 1);
  const stops = placed(none, 5, 2.5, { range });
  assert.ok(
    stops.every((s, i) => i === 0 || i + s >= i - 1 + stops[i - 1] - 1e-6),
    String(stops),
  );
});

test('the ends of the range hold', () => {
  const down = placed(none, 0, -9, { range, alone: true });
  assert.equal(down[0], -3);
  assert.deepEqual(placed(none, 5, 0.01, { range }), none, 'less than a step is nothing');
});
