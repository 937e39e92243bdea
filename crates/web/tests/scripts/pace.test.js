import assert from 'node:assert/strict';
import { test } from 'node:test';

import { Pace } from '../../assets/scripts/picture/pace.js';

const after = (...taken) => {
  const pace = new Pace();
  taken.forEach((ms) => pace.took(ms));
  return pace.coarser;
};

test('pictures that are quick enough stay at half the size', () => {
  assert.equal(after(), 0);
  assert.equal(after(20, 25, 30, 20), 0);
  assert.equal(after(5, 5, 5), 0);
});

test('slow ones become smaller, step by step, and no smaller than that', () => {
  assert.equal(after(80), 1);
  assert.equal(after(80, 60), 2);
  assert.equal(after(80, 60, 90, 90), 2);
});

test('they grow again where they are quick, and stay where they are neither', () => {
  assert.equal(after(80, 60, 10), 1);
  assert.equal(after(80, 60, 10, 10), 0);
  assert.equal(after(80, 30, 30, 30), 1);
});
