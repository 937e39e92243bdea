import assert from 'node:assert/strict';
import { beforeEach, test } from 'node:test';
import { declared, within } from '../../assets/scripts/page/declared.js';
import { cornerAt, cropValues, dragged } from '../../assets/scripts/picture/crop.js';
import { middleAt } from '../../assets/scripts/picture/places.js';

const BOX = [100, 50, 600, 400];
const percent = { low: -100, high: 100, step: 1, decimals: 0 };

beforeEach(() => {
  declared.ranges = {
    'lens.crop.size': { low: 20, high: 100, step: 0.5, decimals: 1 },
    'lens.crop.x': { ...percent, decimals: 1 },
    'lens.crop.y': { ...percent, decimals: 1 },
    'lens.falloff.x': percent,
    'lens.falloff.y': percent,
  };
});

test('values stay in their range and on their steps', () => {
  assert.equal(within('lens.crop.size', 61.3, { step: true }), 61.5);
  assert.equal(within('lens.crop.size', 3), 20);
  assert.equal(within('lens.crop.x', -300), -100);
});

test('corners are caught near by', () => {
  assert.deepEqual(cornerAt([105, 55], BOX), [0, 0]);
  assert.deepEqual(cornerAt([695, 460], BOX), [1, 1]);
  assert.equal(cornerAt([400, 250], BOX), null);
});

test('the corner across stays where it is', () => {
  const hand = dragged([1, 1], [400, 250], BOX, 100);
  assert.deepEqual(hand, { size: 50, factor: 0.5, box: [100, 50, 300, 200] });
  const other = dragged([0, 0], [400, 250], BOX, 100);
  assert.deepEqual(other.box, [400, 250, 300, 200]);
  assert.equal(dragged([1, 1], [101, 51], BOX, 100).size, 20, 'no smaller than the control allows');
});

test('the frame moves towards the corner that stays', () => {
  const frame = { width: 600, height: 400, slack: [0, 0] };
  const values = cropValues(frame, {}, [1, 1], { size: 50, factor: 0.5 });
  assert.deepEqual(values, { 'lens.crop.size': 50, 'lens.crop.x': -100, 'lens.crop.y': -100 });
});

test('a middle is placed in per cent from the centre', () => {
  assert.deepEqual(middleAt('falloff', [0.5, 0.25]), { 'lens.falloff.x': 0, 'lens.falloff.y': -50 });
  assert.deepEqual(middleAt('falloff', [2, -1]), { 'lens.falloff.x': 100, 'lens.falloff.y': -100 });
});
