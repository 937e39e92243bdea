// The keys of the bench: one list, by place, that acts and that is shown. Keys of a control, a drawing or a dialog are
// theirs and do not come here; they are in the list to be seen.
import { declared } from '../page/declared.js';
import { station } from './stations.js';

const $ = (id) => document.getElementById(id);
const isTyping = (e) => e.target.closest?.('input:not([type=range]):not([type=radio]), textarea, select');
const dialogOpen = () => document.querySelector('.modal.show') !== null;
// arrows on the picture
const PAN = { ArrowLeft: [1, 0], ArrowRight: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
// what takes the space bar itself
const OWN_SPACE = 'button, a, summary, [role=slider], [role=tab], [role=option], [tabindex]:not(#ag-canvas)';
// keys that write a character: they can be switched off, for whoever speaks to the page or touches keys by chance
const WRITES = /^(Key[A-Z]|Digit\d|Bracket(Left|Right)|Equal|Minus|Period|Numpad(Add|Subtract)|Space)$/;

// 1 to 8 open a station, 0 what was changed
function opened(code) {
  if (code === 'Digit0') return 'changes';
  const number = /^Digit([1-9])$/.exec(code)?.[1];
  const id = number && declared.stations[number - 1];
  return id && $(`ag-stn-${id}`) ? id : undefined;
}

// `codes` act by `run`; `shown` is what stands on the keys
function listed(parts) {
  const {
    store,
    view,
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
  } = parts;
  const ifThere = (tool) => {
    if (document.querySelector(`[data-pick=${tool}]`)) picker.toggle(tool);
  };
  const walk = (e, id) => {
    e.preventDefault();
    if (!$(id).hidden) $(id).click();
  };
  const zoom = (factor) => view.zoomTo(view.scale * factor, view.pointer);
  const key = (shown, says, codes, run) => ({ shown, says, codes, run });
  return {
    'On the line': [
      key('1 – 8', 'Open a station; the open one closes'),
      key('Shift 1 – 8', 'Switch a station off or on'),
      key('.', "The open station's next page", ['Period'], () => stations.turn()),
      key('0', 'What I changed'),
      key('W', 'Masks', ['KeyW'], () => stations.open('masks', true)),
      key('S', 'Stock board; with Shift the board of sheets', ['KeyS'], (e) =>
        store.leave(`/frames/${store.frame.id}/${e.shiftKey ? 'sheets' : 'stocks'}`),
      ),
      key('Y', 'Log: every step', ['KeyY'], () => stations.open('log', true)),

      key('Q', 'Board of presets; with Shift keep this as a preset', ['KeyQ'], (e) => {
        e.preventDefault();
        if (masks.on && !e.shiftKey) masks.showOverlay(!masks.overlay);
        else if (e.shiftKey) $('ag-preset-open').click();
        else store.leave(`/frames/${store.frame.id}/presets`);
      }),
      key('PageUp', 'Frame before', ['PageUp'], (e) => walk(e, 'ag-previous')),
      key('PageDown', 'Next frame', ['PageDown'], (e) => walk(e, 'ag-next')),
      key('U', 'Up to the contact sheet', ['KeyU'], () => store.leave($('ag-up').href)),
      key('M', 'Mark: keep, maybe, drop', ['KeyM'], () => marks.turn()),
      key('J', 'All that were chosen on the sheet, or this one only', ['KeyJ'], () => many.toggle()),
      key('E', 'Export', ['KeyE'], (e) => {
        e.preventDefault();
        $('ag-export-open').click();
      }),
    ],
    'Room for the picture': [
      key('Space', 'Hold: picture only; tapped twice it stays', ['Space'], (e) => {
        if (e.target.closest?.(OWN_SPACE)) return;
        e.preventDefault();
        layout.look(true);
      }),
      key('B', 'Bench beside the picture or under it', ['KeyB'], () => layout.beside()),
      key('R', 'Readings', ['KeyR'], () => layout.readings()),
      key('F', 'Fit', ['KeyF'], () => view.fit()),
      key('Z', '1:1', ['KeyZ'], () => view.oneToOne(view.pointer)),
      key('+', 'Closer', ['Equal', 'NumpadAdd'], () => zoom(Math.SQRT2)),
      key('−', 'Further away', ['Minus', 'NumpadSubtract'], () => zoom(Math.SQRT1_2)),
      key('Arrows', 'On the picture: move it, with Shift by little'),
      key('G', 'Surround: dark, mid, light', ['KeyG'], () => looking.surround()),
    ],
    'Looking and measuring': [
      key('O', 'Hold: the original, or what has the ring', ['KeyO'], (e) => e.repeat || compare.hold(true)),
      key('D', 'Divide: upright, level, off; with Shift side by side', ['KeyD'], (e) =>
        e.shiftKey ? compare.side() : compare.divide(true),
      ),
      key('L', 'Look in: the picture as it leaves each station, by arrows; with Shift as it is there', ['KeyL'], () =>
        lookIn.open(),
      ),
      key('K', 'Keep a proof', ['KeyK'], () => rack.keep()),
      key('X', 'Mark bare paper and solid black', ['KeyX'], () => meter.mark(!meter.marking)),
      key('V', 'Pin the reading here, or let it go (Shift and a press on the picture too)', ['KeyV'], () =>
        pins.pinHere(),
      ),
      key('I', 'Meter the picture; with Shift match it to another, or seat it', ['KeyI'], (e) =>
        e.shiftKey ? store.leave(`/frames/${store.frame.id}/match`) : metering.open(),
      ),
      key('N', 'Pick a neutral', ['KeyN'], () => picker.toggle('neutral')),
      key('H', 'Pick a hue', ['KeyH'], () => picker.toggle(station() === 'scene' ? 'band' : 'hue')),
      key('C', 'Crop', ['KeyC'], () => ifThere('crop')),
      key('A', 'Draw what is level', ['KeyA'], () => ifThere('level')),
      key('P', 'Place a middle', ['KeyP'], () => ifThere('place')),
      key('Q', 'With masks open: show the mask'),
      key('[', 'Smaller brush', ['BracketLeft'], () => masks.bracket(-1)),
      key(']', 'Larger brush', ['BracketRight'], () => masks.bracket(1)),
      key('Esc', 'Leave what is picked, measured or shown alone', ['Escape'], () => {
        if (picker.on) picker.toggle(picker.tool);
        if (metering.bench) metering.act('leave');
        if (looking.isAlone) looking.alone(view.shown);
        else if (lookIn.on) lookIn.leave();
        else if (compare.isOn) compare.leave();
      }),
    ],
    'On a control': [
      key('T', 'Test strip; with Shift a ring-around', ['KeyT'], (e) => {
        strip.open(document.activeElement.closest('.ag-ctl') ?? document.querySelector('.ag-ctl:hover'), e.shiftKey);
      }),
      key('Tab', 'Next control'),
      key('↑ ↓ ← →', 'A step; with Shift a fine one'),
      key('Home, End', 'Least, most'),
      key('Enter', 'Type a value'),
      key('Backspace', 'Back to the stock'),
      key('Shift Backspace', 'All of the station back to the stock'),
      key('Ctrl Z', 'Undo'),
      key('Ctrl Shift Z', 'Redo'),
      key('F1', 'What it is: its page in the guide', ['F1'], (e) => {
        e.preventDefault();
        guide(document.activeElement.closest('#ag-bench [data-control]')?.dataset.control);
      }),
      key('?', 'These keys'),
    ],
  };
}

// whether keys that write a character act
const letters = {
  get on() {
    return localStorage.getItem('ag-letters') !== 'off';
  },
  set on(on) {
    localStorage.setItem('ag-letters', on ? 'on' : 'off');
  },
};

// the list as it is shown
function filled(list) {
  const element = (tag, text, ...inner) => {
    const e = document.createElement(tag);
    if (text) e.textContent = text;
    e.append(...inner);
    return e;
  };
  return Object.entries(list).map(([place, keys]) => {
    const rows = keys.flatMap(({ shown, says }) => [element('dt', '', element('kbd', shown)), element('dd', says)]);
    return element('section', '', element('h2', place), element('dl', '', ...rows));
  });
}

function listenToDialog(list) {
  $('ag-keys-list').replaceChildren(...filled(list));
  const box = $('ag-keys-letters');
  box.checked = letters.on;
  box.addEventListener('change', () => {
    letters.on = box.checked;
  });
}

export function listenToKeys(parts) {
  const { store, view, lamps, compare, stations, layout, returned } = parts;
  const list = listed(parts);
  const acts = new Map();
  for (const { codes, run } of Object.values(list).flat()) codes?.forEach((code) => acts.set(code, run));
  const undo = (step) => {
    // a run of keys that is still to be kept is what is undone
    if (store.running !== null) store.step(step);
    else $('ag-undo').querySelector(`[data-step=${step}]:not([disabled])`)?.click();
  };
  listenToDialog(list);
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
    if (letters.on && e.key === '?') {
      $('ag-keys-open').click();
      return;
    }
    if (letters.on || !WRITES.test(e.code)) {
      const id = opened(e.code);
      if (id && id !== 'changes' && e.shiftKey) lamps.toggle(id);
      else if (id) stations.open(id, true);
      else acts.get(e.code)?.(e);
    }
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
