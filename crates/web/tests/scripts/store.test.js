import assert from 'node:assert/strict';
import { beforeEach, mock, test } from 'node:test';

const heard = {};
globalThis.document = { body: {}, addEventListener: () => {}, getElementById: () => null };
globalThis.window = { addEventListener: (event, act) => (heard[event] = act) };
const { Store } = await import('../../assets/scripts/bench/store.js');

const mask = (name) => ({ name, parts: [] });
let frame, sent, answers;
const open = () => new Store(frame, { where: () => ({ station: 'film', page: 1 }), resting: () => {} });

beforeEach(() => {
  frame = { id: 7, revision: 3, values: {}, masks: { 1: mask('Sky') }, own: { 'film.push': 0 }, stock: 'plover' };
  sent = [];
  answers = [];
  globalThis.htmx = {
    ajax: (method, path, { values }) => {
      sent.push({ path, ...Object.fromEntries(Object.keys(values).map((key) => [key, values[key]])) });
      return new Promise((done) => answers.push(done));
    },
  };
});

const turn = () => new Promise((go) => setImmediate(go));

test('steps are sent one after another, each with the newest revision', async () => {
  const store = open();
  store.set('film.push', 1);
  store.commit();
  store.set('film.push', 2);
  store.commit();
  await turn();
  assert.equal(sent.length, 1);
  store.kept({ revision: 4, values: { 'film.push': 1 }, stock: 'plover', anew: false });
  answers.shift()();
  await turn();
  assert.deepEqual(
    sent.map((s) => [s.path, s.revision, s.values]),
    [
      ['/frames/7/development', 3, '{"film.push":2}'],
      ['/frames/7/development', 4, '{"film.push":2}'],
    ],
  );
});

test('an older answer does not undo newer work', () => {
  const store = open();
  store.set('film.push', 2);
  store.queued = 2;
  const state = { revision: 9, values: {}, stock: 'plover', anew: true };
  assert.equal(store.kept(state).takes, false);
  assert.deepEqual(frame.values, { 'film.push': 2 });
  store.queued = 1;
  assert.equal(store.kept(state).takes, true);
  assert.deepEqual(frame.values, {});
});

test("the stock's own value is not kept", () => {
  const store = open();
  store.set('film.push', 1);
  store.set('film.push', 0);
  store.set('lens.crop.x', 0);
  assert.deepEqual(frame.values, {});
});

test('only masks that were changed are sent, and those that are gone', () => {
  const store = open();
  assert.equal(store.masksToSend(), '');
  frame.masks[2] = mask('Face');
  assert.equal(store.masksToSend(), '{"2":{"name":"Face","parts":[]}}');
  delete frame.masks[1];
  assert.deepEqual(JSON.parse(store.masksToSend()), { 1: null, 2: mask('Face') });
  assert.ok(store.masksChanged);
  store.kept({ revision: 4, values: {}, stock: 'plover', anew: false });
  assert.ok(!store.masksChanged);
});

test('a run of keys is one step, kept before anything else', async () => {
  mock.timers.enable({ apis: ['setTimeout'] });
  const store = open();
  for (const stops of [0.1, 0.2, 0.3]) {
    store.set('film.push', stops);
    store.keepSoon();
  }
  assert.ok(store.unsaved);
  store.step('undo');
  mock.timers.reset();
  await turn();
  assert.deepEqual(
    sent.map((s) => s.path),
    ['/frames/7/development'],
  );
  answers.shift()();
  await turn();
  assert.deepEqual(
    sent.map((s) => s.path),
    ['/frames/7/development', '/frames/7/step'],
  );
});

test('what waits is sent when the page goes', () => {
  mock.timers.enable({ apis: ['setTimeout'] });
  const gone = [];
  globalThis.fetch = (path, { body }) => gone.push([path, body.get('values'), body.get('revision')]);
  const store = open();
  store.set('film.push', 1);
  store.keepSoon();
  heard.pagehide();
  mock.timers.reset();
  assert.deepEqual(gone, [['/frames/7/development', '{"film.push":1}', '3']]);
  assert.equal(store.running, null);
});
