import assert from 'node:assert/strict';
import { test } from 'node:test';
import { dragged, place, rounded, stepped, typed, valueAt, written } from '../../assets/scripts/controls/numbers.js';

const STOPS = { low: -5, high: 5, step: 0.05, decimals: 2, scale: 'linear', unit: 'EV', signed: true };
const KELVIN = { low: 2000, high: 20000, step: 50, decimals: 0, scale: 'reciprocal', unit: 'K', signed: false };

test('what a person types', () => {
  assert.equal(typed('1/3', 0, 'EV'), 1 / 3);
  assert.equal(typed(' 5400 K', 5000, 'K'), 5400);
  assert.equal(typed('−0,5 EV', 0, 'EV'), -0.5);
  assert.equal(typed('x1.5', 20, ''), 30);
  assert.equal(typed('×2', 20, ''), 40);
  for (const wrong of ['', 'x', 'bright', '1/2/3', '5 CC']) assert.ok(Number.isNaN(typed(wrong, 1, 'EV')), wrong);
});

test('numbers are written as the trade writes them', () => {
  assert.equal(written(STOPS, 0.5), '+0.50 EV');
  assert.equal(written(STOPS, -0.001), '0.00 EV');
  assert.equal(written(STOPS, -1), '−1.00 EV');
  assert.equal(written(KELVIN, 5500), '5500 K');
});

test('a place on the track and back', () => {
  for (const range of [STOPS, KELVIN]) {
    for (const share of [0, 0.2, 0.5, 0.9, 1]) {
      assert.ok(Math.abs(place(range, valueAt(range, share)) - share) < 1e-9);
    }
    assert.equal(place(range, range.low - 10), 0);
    assert.ok(Math.abs(valueAt(range, 7) - range.high) < 1e-6);
  }
  // equal steps of 1 / value: the middle of the track is no arithmetic mean
  assert.ok(Math.abs(valueAt(KELVIN, 0.5) - 3636.36) < 0.01);
});

test('a drag catches at the own value, unless it is free', () => {
  assert.equal(dragged(STOPS, 0.505, 0), 0);
  assert.equal(dragged(STOPS, 0.505, 0, { free: true }), 0.05);
  assert.equal(dragged(STOPS, 0.52, 0), 0.2);
  assert.equal(dragged(STOPS, 0.5204, 0, { fine: true }), 0.205);
  assert.equal(dragged(KELVIN, place(KELVIN, 5500) + 0.005, 5500), 5500);
});

test('up is more, in whole steps, tenths or tens, and never past an end', () => {
  assert.equal(stepped(STOPS, 0, 1), 0.05);
  assert.equal(stepped(STOPS, 0, -1), -0.05);
  assert.equal(stepped(STOPS, 0, 1, { fine: true }), 0.005);
  assert.equal(stepped(STOPS, 0, 1, { coarse: true }), 0.5);
  assert.equal(stepped(STOPS, 5, 1), 5);
  assert.equal(rounded(STOPS, 0.123), 0.1);
});
