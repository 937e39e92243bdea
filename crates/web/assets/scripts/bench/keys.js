// The keys of the bench. Keys of a control, a drawing or a dialog are theirs and do not come here.
import { declared } from '../page/declared.js';
import { station } from './stations.js';

const $ = (id) => document.getElementById(id);
const isTyping = (e) => e.target.closest?.('input:not([type=range]):not([type=radio]), textarea, select');
const dialogOpen = () => document.querySelector('.modal.show') !== null;
// arrows on the picture
const PAN = { ArrowLeft: [1, 0], ArrowRight: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

// 1 to 8 open a station, 0 what was changed
function opened(code) {
  if (code === 'Digit0') return 'changes';
  const number = /^Digit([1-9])$/.exec(code)?.[1];
  const id = number && declared.stations[number - 1];
  return id && $(`ag-stn-${id}`) ? id : undefined;
}

// what takes the space bar itself
const OWN_SPACE = 'button, a, summary, [role=slider], [role=tab], [role=option], [tabindex]:not(#ag-canvas)';

export function listenToKeys(parts) {
  const { store, view, picker, masks, metering, meter, compare, stations, layout, returned } = parts;
  const undo = (step) => {
    // a run of keys that is still to be kept is what is undone
    if (store.running !== null) store.step(step);
    else $('ag-undo').querySelector(`[data-step=${step}]:not([disabled])`)?.click();
  };
  const ifThere = (tool) => {
    if (document.querySelector(`[data-pick=${tool}]`)) picker.toggle(tool);
  };
  const zoom = (factor) => view.zoomTo(view.scale * factor, view.pointer);
  const acts = {
    KeyO: (e) => e.repeat || compare.hold(true),
    KeyF: () => view.fit(),
    KeyS: () => store.leave(`/frames/${store.frame.id}/stocks`),
    KeyL: () => store.leave(`/frames/${store.frame.id}/sheets`),
    KeyX: () => meter.mark(!meter.marking),
    KeyH: () => picker.toggle(station() === 'scene' ? 'band' : 'hue'),
    KeyN: () => picker.toggle('neutral'),
    KeyC: () => ifThere('crop'),
    KeyA: () => ifThere('level'),
    KeyP: () => ifThere('place'),
    KeyI: () => metering.open(),
    KeyW: () => stations.open('masks', true),
    KeyB: () => layout.beside(),
    KeyR: () => layout.readings(),
    Space: (e) => {
      if (e.target.closest?.(OWN_SPACE)) return;
      e.preventDefault();
      layout.look(true);
    },
    KeyQ: () => masks.on && masks.showOverlay(!masks.overlay),
    BracketLeft: () => masks.bracket(-1),
    BracketRight: () => masks.bracket(1),
    Escape: () => {
      if (picker.on) picker.toggle(picker.tool);
      if (metering.bench) metering.act('leave');
      if (compare.isAlone) compare.alone(view.shown);
    },
    KeyZ: () => view.oneToOne(view.pointer),
    KeyE: (e) => {
      e.preventDefault();
      $('ag-export-open').click();
    },
    KeyG: () => compare.surround(),
    Equal: () => zoom(Math.SQRT2),
    NumpadAdd: () => zoom(Math.SQRT2),
    Minus: () => zoom(Math.SQRT1_2),
    NumpadSubtract: () => zoom(Math.SQRT1_2),
    PageUp: () => $('ag-previous')?.click(),
    PageDown: () => $('ag-next')?.click(),
  };
  document.addEventListener('keydown', (e) => {
    if (isTyping(e) || dialogOpen()) return;
    if (e.shiftKey && e.code === 'Backspace') {
      // of a sheet, all but what it is
      const at = station().replace(/^surface:(\d+)$/, 'surface.sheet.$1');
      returned(Object.keys(store.values).filter((id) => id.startsWith(`${at}.`) && !/^surface.*\.kind$/.test(id)));
      e.preventDefault();
      return;
    }
    if ((e.ctrlKey || e.metaKey) && e.code === 'KeyZ') {
      e.preventDefault();
      undo(e.shiftKey ? 'redo' : 'undo');
      return;
    }
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const id = e.shiftKey ? undefined : opened(e.code);
    if (id) stations.open(id, true);
    else acts[e.code]?.(e);
    if (e.target.id === 'ag-canvas' && PAN[e.code]) {
      const step = e.shiftKey ? 10 : 60;
      view.pan(...PAN[e.code].map((way) => way * step));
      e.preventDefault();
    }
  });
  document.addEventListener('keyup', (e) => {
    if (e.code === 'KeyO') compare.hold(false);
    if (e.code === 'Space') layout.look(false);
  });
}
