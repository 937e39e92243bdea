import assert from 'node:assert/strict';
import { test } from 'node:test';
import { Alone, isBesideAtFirst } from '../../assets/scripts/bench/layout.js';

test('the bench is beside upright pictures on low screens', () => {
  assert.equal(isBesideAtFirst({ width: 400, height: 600 }, 800), true);
  assert.equal(isBesideAtFirst({ width: 400, height: 600 }, 900), false);
  assert.equal(isBesideAtFirst({ width: 600, height: 400 }, 660), false);
  assert.equal(isBesideAtFirst({ width: 500, height: 500 }, 660), false);
});

test('held it is a look, and over when it is let go', () => {
  const alone = new Alone();
  alone.down(0);
  alone.down(30); // the key repeats
  assert.equal(alone.on, true);
  alone.up();
  assert.equal(alone.on, false);
});

test('tapped twice it stays, and a tap ends it', () => {
  const alone = new Alone();
  for (const at of [0, 200]) {
    alone.down(at);
    alone.up();
  }
  assert.equal(alone.on, true);
  alone.down(900);
  alone.up();
  assert.equal(alone.on, false);
  alone.down(1000);
  alone.up();
  assert.equal(alone.on, false, 'the tap that ended it is not the first of two');
});

test('two slow taps are two looks', () => {
  const alone = new Alone();
  for (const at of [0, 800]) {
    alone.down(at);
    alone.up();
  }
  assert.equal(alone.on, false);
});
