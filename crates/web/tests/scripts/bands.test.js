// The values of a test strip and where its bands lie.
import assert from 'node:assert/strict';
import { test } from 'node:test';

import { firstStep, laidOut, shownIn, snapped, valuesRound } from '../../assets/scripts/strip/bands.js';

const exposure = { low: -2, high: 2, step: 0.05 };

test('a first step is one that a person would choose', () => {
  assert.equal(firstStep(exposure), 0.25);
  assert.equal(firstStep({ low: -60, high: 60, step: 1 }), 5);
  assert.equal(firstStep({ low: 0, high: 1, step: 0.01 }), 0.05);
  assert.equal(firstStep({ low: 0, high: 5, step: 0.25 }), 0.25);
  assert.equal(firstStep({ low: 2000, high: 12000, step: 50 }), 500);
});

test('bands are values that the control can show, inside its range', () => {
  assert.deepEqual(valuesRound(0, 0.25, 5, exposure), [-0.5, -0.25, 0, 0.25, 0.5]);
  assert.deepEqual(valuesRound(1.9, 0.25, 5, exposure), [1, 1.25, 1.5, 1.75, 2]);
  assert.deepEqual(valuesRound(-2, 0.5, 3, exposure), [-2, -1.5, -1]);
  assert.equal(valuesRound(0, 3, 7, exposure).length, 2, 'no more than the range has room for');
  assert.equal(snapped(0.01, 0.05), 0.05, 'never none');
  assert.equal(snapped(0.125, 0.05), 0.15);
});

test('bands cover the picture, cells of a ring keep its shape and do not meet', () => {
  const across = laidOut('across', 7, [700, 400]);
  assert.ok(Math.abs(across.reduce((sum, [, , w]) => sum + w, 0) - 1) < 1e-9);
  assert.deepEqual(shownIn('across', across[2], [0, 0]), across[2], 'a band is its own part of the picture');
  const ring = laidOut('ring', 9, [600, 400]);
  for (const [x, y, w, h] of ring) {
    assert.ok(Math.abs(w - h) < 1e-12 && x >= 0 && y >= -1e-9 && x + w <= 1 + 1e-9 && y + h <= 1 + 1e-9);
    const others = ring.filter(([a, b]) => a !== x || b !== y);
    assert.ok(others.every(([a, b]) => Math.abs(a - x) >= w || Math.abs(b - y) >= h));
  }
  const patch = laidOut('patch', 5, [600, 400]);
  const shown = patch.map((rect) => shownIn('patch', rect, [0.98, 0.5]));
  assert.ok(
    shown.every((part) => part[0] === shown[0][0] && part[0] + part[2] <= 1 + 1e-12),
    'the same part in each',
  );
});
