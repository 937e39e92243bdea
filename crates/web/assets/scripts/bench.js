// The bench: ties the controls, the picture, the history and the keys together.
import { Looking } from './bench/looking.js';
import { Chart } from './bench/chart.js';
import { Compare } from './bench/compare.js';
import { listenToDialogs, listenToHelp } from './bench/dialogs.js';
import { listenToKeys } from './bench/keys.js';
import { Lamps } from './bench/lamps.js';
import { Layout } from './bench/layout.js';
import { LookIn } from './bench/look-in.js';
import { Many } from './bench/many.js';
import { Marks } from './bench/marks.js';
import { Metering } from './bench/metering.js';
import { Rack } from './bench/rack.js';
import { Stations, page, station } from './bench/stations.js';
import { Store } from './bench/store.js';
import { Walking, standsItself } from './bench/walking.js';
import { listen, paintAll, show } from './controls/controls.js';
import { Menu } from './controls/menu.js';
import { listenCurves, loadSpreads, paintCurves } from './controls/tone-curve.js';
import { Sheets } from './faces/sheets.js';
import { Tone } from './faces/tone.js';
import { Zones } from './faces/zones.js';
import { Masks } from './masks/masks.js';
import { NO_ANSWER } from './page/ask.js';
import { say } from './page/messages.js';
import { Densitometer } from './picture/densitometer.js';
import { Picker } from './picture/picker.js';
import { MountPicture } from './picture/mount.js';
import { Pins } from './picture/pins.js';
import { drawMiddle } from './picture/places.js';
import { SheetHandles } from './picture/sheet-handles.js';
import { View } from './picture/view.js';
import { Strip } from './strip/strip.js';

const $ = (id) => document.getElementById(id);
const frame = JSON.parse($('ag-state').textContent);
const canvas = $('ag-canvas');
const complain = (text) => say(text, { problem: true });

// ---- the picture

const parts = {}; // made below; the picture tells them what it shows

const view = new View(canvas, frame, frame.values, ({ zoom, fitted, framed, rendering, settled, problem }) => {
  if (framed) parts.compare?.refresh();
  if (settled) standsItself();
  if (settled === 'developed') {
    parts.walking?.look();
    parts.meter?.load(view.values);
    parts.pins?.read(view.values, true);
    parts.zones?.load();
    parts.tone?.load();
    loadSpreads(frame, view.values);
  }
  if (zoom !== undefined) {
    const percent = zoom * 100;
    $('ag-zoom').textContent = `${percent < 10 ? percent.toFixed(1) : Math.round(percent)} %`;
    $('ag-fit').setAttribute('aria-pressed', fitted);
    $('ag-one').setAttribute('aria-pressed', Math.abs(zoom - 1) < 1e-3);
    canvas.classList.toggle('ag-grab', !fitted);
  }
  if (rendering !== undefined) $('ag-line').classList.toggle('ag-rendering', rendering);
  if (problem) complain(problem);
});

view.mount = new MountPicture(frame, view);

const looking = new Looking(view);
const layout = new Layout({ frame });
const tell = (text) => looking.tell(text);
const compare = (parts.compare = new Compare({ frame, view, values: () => frame.values }));
const meter = (parts.meter = new Densitometer(frame, canvas, view));
view.over = (g, ...at) => {
  if (parts.strip?.on) {
    parts.strip.paint(g, ...at);
    return parts.strip.isApart;
  }
  meter.overlay(g, ...at);
  parts.pins?.paint(g);
  if (parts.picker?.tool === 'place') drawMiddle(g, view.values, ...at);
  parts.picker?.overlay(g, ...at);
  if (parts.picker?.on) return false;
  parts.masks?.paint(g, ...at);
  parts.handles?.paint(g, ...at);
  return false;
};

// ---- values and history

const store = new Store(frame, {
  where: () => ({ station: station(), page: page() }),
  resting: () => view.request('settled'),
});

parts.walking = new Walking({ frame, view, store });
const many = new Many({ frame, store });
const marks = new Marks(frame);

// how a sheet lies decides what is offered for it, and what is said of it
const LIES = /^surface\.sheet\.\d+\.(place|fit|cover|x|y|scale|turn)$/;

function look(id, moving) {
  if (LIES.test(id) && moving !== true) store.renew();
  // what is changed is looked at, on its way too
  if (view.of && !lookIn.on) compare.develop('');
  view.setValues({ ...frame.values }, id, moving !== false);
  if (moving !== false) pins.read(view.values);
  if (moving === false) store.commit();
  if (moving === 'key') store.keepSoon();
}

function changed(id, value, own, moving) {
  if (id.startsWith('mask.')) {
    masks.set(id, value, moving);
    return;
  }
  // what a local adjustment does is not seen under the mask's own colour
  if (id.startsWith('scene.local.') && masks.overlay) masks.showOverlay(false);
  store.set(id, value, own);
  if (/^(film\.(curve|push)|bath)/.test(id)) chart.redraw();
  look(id, moving);
}

// several values at once; none is the stock's own
function take(values, moving) {
  for (const [id, v] of Object.entries(values)) {
    if (v === undefined || typeof v === 'number') show(id, v ?? store.own(id));
    store.set(id, v);
  }
  look(Object.keys(values)[0] ?? '', moving);
}

// values back to the stock's own, as one step
function returned(ids) {
  store.returned(ids);
  view.setValues({ ...frame.values }, '', false);
  store.commit(true);
}

const chart = new Chart({ frame, changed });
listen(document, changed);
listenCurves(document, changed, (text) => say(text));

// ---- tools and faces

const stations = new Stations({
  frame,
  store,
  opened: (column, tab) => {
    if (column === 'film.curve') chart.layer(tab);
    view.draw();
  },
});

const lamps = new Lamps({ frame, store, look: () => view.setValues({ ...frame.values }, '', false) });

const picker = (parts.picker = new Picker(frame, canvas, view, {
  values: () => frame.values,
  moved: (values) => take(values, true),
  rested: (values, how = false) => take(values, how),
  tell,
  complain,
}));

const masks = (parts.masks = new Masks({
  frame,
  canvas,
  view,
  moved: (settled = false) => {
    view.masks = store.masksChanged ? frame.masks : undefined;
    view.setValues({ ...frame.values }, '', !settled);
  },
  rested: (anew) => {
    view.request('settled');
    return store.commit(anew);
  },
  soon: () => store.keepSoon(),
  bring: (name) => stations.bring(name, 1, false),
  busy: () => store.queued > 1 || store.masksChanged,
  adopt: (theirs) => {
    store.adopt(theirs);
    view.masks = undefined;
  },
  tell,
  complain,
  say,
  show,
}));

const tone = (parts.tone = new Tone({
  frame,
  values: () => view.values,
  changed: take,
  step: () => store.commit(true),
  complain,
}));
const zones = (parts.zones = new Zones({ frame, values: () => view.values, changed: take }));

const sheets = new Sheets({
  frame,
  masks,
  look: () => view.setValues({ ...frame.values }, '', false),
  step: () => store.commit(true),
  bring: (name) => stations.bring(name, 1, false),
});
parts.handles = new SheetHandles({
  frame,
  canvas,
  view,
  chosen: () => (picker.on ? null : sheets.chosen),
  values: () => frame.values,
  taken: (values, moving) => take(values, moving),
  tell,
});

// a test strip takes the picture for itself; what is taken from it is one step
const strip = (parts.strip = new Strip({
  frame,
  view,
  values: () => frame.values,
  own: (id) => store.own(id),
  started: () => {
    store.flush();
    lookIn.leave();
    compare.leave();
    if (picker.on) picker.toggle(picker.tool);
    if (looking.isAlone) looking.alone(view.shown);
  },
  take: (values) => take(values, false),
}));

const lookIn = new LookIn({ view, looking, started: () => compare.leave() });

const pins = (parts.pins = new Pins({
  frame,
  canvas,
  view,
  free: () => !picker.on && !masks.on && !strip.on,
}));

const guide = (id) => store.leave(`/guide?${new URLSearchParams({ control: id ?? '', from: frame.id })}`);
new Menu({ back: (id) => returned([id]), strip: (control) => strip.open(control), guide });

const rack = new Rack({ frame, store, compare, swapped: () => compare.show() });

const metering = new Metering({
  frame,
  values: () => frame.values,
  look: (values) => view.setValues({ ...frame.values, ...values }, '', false),
  take: (values) => {
    Object.assign(frame.values, values);
    store.commit(true);
  },
  leave: () => stations.bring('scene', 1, true),
  tell,
});

// a click on the picture lights the patch of its tone
let pressed = null;
canvas.addEventListener('pointerdown', (e) => {
  pressed = [e.clientX, e.clientY];
});
canvas.addEventListener('pointerup', (e) => {
  const still = pressed && Math.hypot(e.clientX - pressed[0], e.clientY - pressed[1]) < 3;
  pressed = null;
  const stops = still ? meter.stopsUnderPointer() : null;
  if (stops !== null) zones.light(stops);
});

// the other button on undo opens the log
document.addEventListener('contextmenu', (e) => {
  if (!e.target.closest('#ag-undo')) return;
  e.preventDefault();
  stations.open('log', false);
});

document.addEventListener('click', (e) => {
  const at = (what) => e.target.closest(what);
  if (at('[data-pick]')) picker.toggle(at('[data-pick]').dataset.pick);
  if (at('[data-meter]')) metering.open();
  if (at('#ag-marks')) meter.mark(!meter.marking);
  if (at('[data-return]')) returned([at('[data-return]').dataset.return]);
  if (at('[data-return-all]')) {
    lamps.allOn();
    returned(Object.keys(frame.values));
  }
  if (at('button[data-step]')) store.step(at('button[data-step]').dataset.step);
  if (at('[data-goto]')) store.post('step', { step: 'to', to: at('[data-goto]').dataset.goto });
});

// ---- what comes back

const undoing = { label: 'Undo', run: () => store.step('undo') };

function kept(state) {
  const { takes, drawn, changedStock } = store.kept(state);
  if (drawn && !store.masksChanged) {
    // the application has them now: they need not be sent again, and readings can follow
    view.masks = undefined;
    meter.load(view.values);
  }
  if (takes) {
    if (!store.masksChanged) view.masks = undefined;
    view.setValues({ ...state.values }, '', false);
  }
  if (changedStock) compare.refresh();
  many.load();
  if (state.message) say(state.message, changedStock && state.anew ? { action: undoing } : {});
}

// the same marks after a part of the page was swapped
function restore() {
  paintAll();
  paintCurves();
  lamps.mark();
  stations.restore();
  looking.mark();
  lookIn.mark();
  compare.show();
  pins.show();
  picker.mark();
  masks.mark();
  many.mark();
  tone.paint();
  zones.paint();
  view.draw();
  if (zones.box && !zones.box.dataset.loaded) zones.load();
  loadSpreads(frame, view.values);
}

// the state comes first in an answer; when all its parts are swapped, the same control keeps the focus
let focused = null;
let known = $('ag-kept');
let restoring = false;
document.body.addEventListener('htmx:oobBeforeSwap', ({ detail }) => {
  const held = document.activeElement;
  focused = held?.id || focused;
  // taken out of the page while it has the focus, it would have the page laid out in the middle of the swap
  if (detail.target.contains(held) && held.matches('[role=slider], button, a')) held.blur();
});
document.body.addEventListener('htmx:oobAfterSwap', () => {
  if ($('ag-kept') !== known) {
    known = $('ag-kept');
    kept(JSON.parse(known.textContent));
  }
  if (restoring) return;
  restoring = true;
  // all parts of an answer are swapped in one go: marked once, after the last
  queueMicrotask(() => {
    restoring = false;
    restore();
    if (focused && document.activeElement === document.body) $(focused)?.focus({ focusVisible: true });
  });
});
document.body.addEventListener('htmx:afterSettle', () => {
  focused = null;
});
document.body.addEventListener('htmx:responseError', (e) => store.refused(e.detail.xhr));
document.body.addEventListener('htmx:sendError', () => {
  store.failed = true;
  complain(NO_ANSWER);
});

// ---- keys, dialogs, what another page left to be said

listenToKeys({
  store,
  view,
  lamps,
  picker,
  masks,
  metering,
  meter,
  looking,
  compare,
  rack,
  strip,
  lookIn,
  pins,
  guide,
  marks,
  many,
  stations,
  layout,
  returned,
});
listenToDialogs(store);
listenToHelp();

const left = sessionStorage.getItem('ag-said');
if (left) {
  sessionStorage.removeItem('ag-said');
  say(left, { action: undoing });
}

paintAll();
paintCurves();
masks.mark();
tone.paint();
zones.paint();
