import assert from 'node:assert/strict';
import { test } from 'node:test';
import { grasped, groundOf, holds, moved, placed, sizeOf } from '../../assets/scripts/picture/sheet-shape.js';

const FRAME = { width: 600, height: 400, film: [900, 600], corner: [200, 150] };
const BOX = [100, 50, 300, 200]; // half size
const PLAIN = { x: 0, y: 0, scale: 100, turn: 0 };
const near = (a, b) => a.forEach((v, k) => assert.ok(Math.abs(v - b[k]) < 1e-9, `${a} is not ${b}`));

test('what lies on the film lies on all of it', () => {
  assert.deepEqual(groundOf(FRAME, false, BOX), { middle: [250, 150], size: [300, 200] });
  assert.deepEqual(groundOf(FRAME, true, BOX), { middle: [225, 125], size: [450, 300] });
});

test('a picture covers its ground, or is stretched to it', () => {
  const ground = { middle: [0, 0], size: [300, 200] };
  assert.deepEqual(sizeOf(ground, [50, 50], 'once'), [300, 300]);
  assert.deepEqual(sizeOf(ground, [50, 50], 'stretch'), [300, 200]);
  assert.deepEqual(sizeOf(ground, null), [300, 200]);
});

test('handles turn with the clock', () => {
  const ground = groundOf(FRAME, false, BOX);
  const { handles, middle } = placed(ground, ground.size, { ...PLAIN, turn: 90, x: 10 });
  near(middle, [280, 150]);
  // the upper left corner lies at the upper right after a quarter
  near(handles[0], [280 + 100, 150 - 150]);
});

test('a hand catches handles first, then what is inside', () => {
  const ground = groundOf(FRAME, false, BOX);
  const shape = placed(ground, ground.size, PLAIN);
  assert.equal(grasped(shape, PLAIN, [101, 52], 12, true), 'scale');
  assert.equal(grasped(shape, PLAIN, [250, 80], 12, true), 'turn');
  assert.equal(grasped(shape, PLAIN, [200, 170], 12, true), 'move');
  assert.equal(grasped(shape, PLAIN, [200, 170], 12, false), null);
  assert.ok(holds(shape, PLAIN, [399, 249]) && !holds(shape, PLAIN, [401, 100]));
});

test('drags move, scale and turn about the middle', () => {
  const ground = groundOf(FRAME, false, BOX);
  near(Object.values(moved('move', ground, PLAIN, [250, 150], [280, 130], false)), [10, -10]);
  assert.equal(moved('scale', ground, PLAIN, [350, 150], [400, 150], false).scale, 150);
  assert.equal(Math.round(moved('turn', ground, PLAIN, [250, 50], [350, 150], false).turn), 90);
  assert.equal(moved('turn', ground, { ...PLAIN, turn: 170 }, [250, 50], [290, 60], true).turn, -165);
});
