import assert from 'node:assert/strict';
import { test } from 'node:test';
import { Places } from '../../assets/scripts/masks/places.js';
import { dragged, fall, handles, turned } from '../../assets/scripts/masks/shapes.js';

const ORIGINAL = [3000, 2000];
const OVAL = { kind: 'ellipse', centre: [0.5, 0.5], radii: [0.2, 0.1], turn: 30, feather: 0.5 };
const LINE = { kind: 'linear', from: [0.5, 0.25], to: [0.5, 0.75] };
const near = (a, b, what) => a.forEach((v, k) => assert.ok(Math.abs(v - b[k]) < 1e-6, `${what}: ${a} and ${b}`));

test('a handle dragged to where it is changes nothing', () => {
  for (const part of [OVAL, LINE]) {
    for (const [name, place] of handles(part, ORIGINAL)) {
      const same = dragged(part, name, place, place, ORIGINAL);
      for (const key of ['centre', 'radii', 'from', 'to']) if (part[key]) near(same[key], part[key], `${name} ${key}`);
      assert.ok(Math.abs((same.turn ?? 0) - (part.turn ?? 0)) <= 0.5);
    }
  }
});

test('an ellipse grows along its own axes, turned as it is', () => {
  const [, across] = handles(OVAL, ORIGINAL)[1];
  const out = [0, 1].map((k) => OVAL.centre[k] + 1.5 * (across[k] - OVAL.centre[k]));
  near(dragged(OVAL, 'across', out, across, ORIGINAL).radii, [0.3, 0.1], 'radii');
});

test('a fall has its angle and length about its middle', () => {
  const { angle, length } = fall(LINE, ORIGINAL);
  assert.ok(Math.abs(angle - 90) < 1e-9 && Math.abs(length - 1000 / Math.hypot(...ORIGINAL)) < 1e-9);
  const other = turned(LINE, ORIGINAL, 20, 0.4);
  const found = fall(other, ORIGINAL);
  assert.ok(Math.abs(found.angle - 20) < 1e-9 && Math.abs(found.length - 0.4) < 1e-9);
  near(
    [0, 1].map((k) => (other.from[k] + other.to[k]) / 2),
    [0.5, 0.5],
    'middle',
  );
});

test('places of a turned and bent frame go there and back', () => {
  const turn = ([u, v]) => [
    0.5 + 0.4 * (u - 0.5) - 0.2 * (v - 0.5),
    0.5 + 0.2 * (u - 0.5) + 0.4 * (v - 0.5) ** 3 + 0.3 * v,
  ];
  const share = (i) => i / 16;
  const table = Array.from({ length: 17 }, (_, y) => Array.from({ length: 17 }, (__, x) => turn([share(x), share(y)])));
  const places = new Places(table);
  for (const place of [
    [0.5, 0.5],
    [0.1, 0.9],
    [0.83, 0.21],
  ]) {
    near(places.toFrame(places.toOriginal(place)), place, 'there and back');
  }
  assert.deepEqual(new Places(null).toOriginal([0.2, 0.3]), [0.2, 0.3]);
});
