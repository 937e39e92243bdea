// The bench's controls: tracks, value fields, choices. Values live in the store; this file only moves them.
import { dragged, place, stepped, typed, written } from './numbers.js';

const range = ({ dataset: d }) => ({
  low: +d.low,
  high: +d.high,
  step: +d.step,
  decimals: +d.decimals,
  scale: d.scale,
  unit: d.unit,
  signed: d.signed === 'true',
});

export function paint(c) {
  const v = +c.dataset.value;
  const own = +c.dataset.own;
  const tuned = v !== own;
  const track = c.querySelector('.ag-track');
  c.style.setProperty('--v', place(range(c), v));
  c.style.setProperty('--s', place(range(c), own));
  c.classList.toggle('ag-tuned', tuned);
  const field = c.querySelector('input');
  if (document.activeElement !== field) field.value = written(range(c), v);
  c.querySelector('.ag-delta').textContent = tuned
    ? (v > own ? '+' : '−') + Math.abs(v - own).toFixed(+c.dataset.decimals)
    : '';
  track.setAttribute('aria-valuenow', v);
  track.setAttribute('aria-valuetext', `${written(range(c), v)}, stock value ${written(range(c), own)}`);
}

export function paintAll(root = document) {
  root.querySelectorAll('.ag-ctl').forEach(paint);
}

// `changed(id, value, moving)` is called while a control moves and once, with moving = false, when it rests
export function listen(root, changed) {
  let drag = null;

  const set = (c, v, moving) => {
    const own = +c.dataset.own;
    c.dataset.value = v;
    paint(c);
    changed(c.dataset.control, v, v === own, moving);
  };

  root.addEventListener('pointerdown', (e) => {
    const track = e.target.closest('.ag-track');
    const c = track?.closest('.ag-ctl');
    if (!c || e.button !== 0) return;
    e.preventDefault();
    track.focus({ focusVisible: false });
    track.setPointerCapture(e.pointerId);
    const box = track.getBoundingClientRect();
    const at = (e.clientX - box.left) / box.width;
    const near = Math.abs(at - place(range(c), +c.dataset.value)) * box.width < 9;
    drag = {
      c,
      x: e.clientX,
      from: near ? place(range(c), +c.dataset.value) : at,
      start: +c.dataset.value,
      width: box.width,
    };
    c.classList.add('ag-hot');
    if (!near) move(e);
  });

  const move = (e) => {
    if (!drag) return;
    const { c } = drag;
    const p = drag.from + ((e.clientX - drag.x) / drag.width) * (e.shiftKey ? 0.1 : 1);
    // the knob catches at the stock's own value; Alt passes it
    const v = dragged(range(c), p, +c.dataset.own, { fine: e.shiftKey, free: e.altKey });
    if (v !== +c.dataset.value) set(c, v, true);
  };
  root.addEventListener('pointermove', move);

  const release = () => {
    if (!drag) return;
    const { c, start } = drag;
    drag = null;
    c.classList.remove('ag-hot');
    if (+c.dataset.value !== start) set(c, +c.dataset.value, false);
  };
  root.addEventListener('pointerup', release);
  root.addEventListener('pointercancel', release);
  // Escape in the middle of a drag gives the value back
  root.addEventListener(
    'keydown',
    (e) => {
      if (e.key !== 'Escape' || !drag) return;
      const { c, start } = drag;
      drag = null;
      c.classList.remove('ag-hot');
      if (+c.dataset.value !== start) set(c, start, true);
      e.stopImmediatePropagation();
    },
    { capture: true },
  );

  root.addEventListener('dblclick', (e) => {
    const c = e.target.closest('.ag-ctl');
    if (c && !e.target.closest('input')) set(c, +c.dataset.own, false);
  });

  root.addEventListener(
    'wheel',
    (e) => {
      const c = e.target.closest('.ag-ctl');
      if (!c || !c.contains(document.activeElement)) return;
      e.preventDefault();
      nudge(c, e.deltaY < 0 ? 1 : -1, e);
    },
    { passive: false },
  );

  const nudge = (c, way, e) => {
    set(c, stepped(range(c), +c.dataset.value, way, { fine: e.shiftKey, coarse: e.ctrlKey }), 'key');
  };

  root.addEventListener('keydown', (e) => {
    if (!(e.target instanceof Element)) return;
    const field = e.target.closest('.ag-ctl > input');
    const c = e.target.closest('.ag-ctl');
    if (field) {
      if (e.key === 'Enter') {
        take(field);
        field.blur();
        c.querySelector('.ag-track').focus();
        e.preventDefault();
      }
      if (e.key === 'Escape') {
        field.value = written(range(c), +c.dataset.value);
        field.blur();
        e.stopPropagation();
      }
      return;
    }
    if (c && e.target.matches('.ag-track')) {
      const { low, high } = range(c);
      const act = {
        ArrowUp: () => nudge(c, 1, e),
        ArrowRight: () => nudge(c, 1, e),
        ArrowDown: () => nudge(c, -1, e),
        ArrowLeft: () => nudge(c, -1, e),
        Home: () => set(c, low, false),
        End: () => set(c, high, false),
        Backspace: () => set(c, +c.dataset.own, false),
        Enter: () => {
          const f = c.querySelector('input');
          f.focus();
          f.select();
        },
      }[e.key];
      if (act && !(e.key === 'Backspace' && e.shiftKey)) {
        act();
        e.preventDefault();
        e.stopPropagation();
      }
      return;
    }
    const option = e.target.closest('.ag-seg > button');
    if (option && ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown'].includes(e.key)) {
      const all = [...option.parentElement.children];
      const step = e.key === 'ArrowRight' || e.key === 'ArrowDown' ? 1 : -1;
      const next = all[Math.min(all.length - 1, Math.max(0, all.indexOf(option) + step))];
      next.focus();
      next.click();
      e.preventDefault();
    }
  });

  const take = (field) => {
    const c = field.closest('.ag-ctl');
    const v = typed(field.value, +c.dataset.value, c.dataset.unit);
    c.querySelector('.ag-say')?.remove();
    if (!Number.isFinite(v)) {
      complain(c, `not a number: “${field.value}”`);
      field.value = written(range(c), +c.dataset.value);
      return;
    }
    const { low, high } = range(c);
    const kept = Math.min(high, Math.max(low, v));
    if (kept !== v) complain(c, `${written(range(c), low)} to ${written(range(c), high)}`);
    field.value = written(range(c), kept);
    if (kept !== +c.dataset.value) set(c, Number(kept.toFixed(6)), false);
  };

  const complain = (c, text) => {
    const line = document.createElement('div');
    line.className = 'ag-say';
    line.textContent = text;
    c.append(line);
    setTimeout(() => line.remove(), 4000);
  };

  root.addEventListener('change', (e) => {
    const field = e.target.closest('.ag-ctl > input');
    if (field) take(field);
  });

  root.addEventListener('click', (e) => {
    const option = e.target.closest('.ag-seg[data-choice] > button');
    if (!option) return;
    const seg = option.parentElement;
    for (const b of seg.children) {
      const on = b === option;
      b.setAttribute('aria-checked', on);
      b.tabIndex = on ? 0 : -1;
      b.classList.toggle('ag-tuned', on && !b.classList.contains('ag-own'));
    }
    changed(seg.dataset.choice, option.dataset.option, option.classList.contains('ag-own'), false);
  });

  // a colour: the picker while it moves, or typed as #rrggbb
  const coloured = (id, v, moving) => {
    const picker = root.querySelector(`input[data-colour="${CSS.escape(id)}"]`),
      hex = root.querySelector(`input[data-hex="${CSS.escape(id)}"]`);
    if (!/^#[0-9a-f]{6}$/.test(v)) {
      hex.value = picker.value;
      return;
    }
    picker.value = hex.value = v;
    const own = v === picker.dataset.own;
    picker.parentElement.classList.toggle('ag-tuned', !own);
    changed(id, v, own, moving);
  };
  root.addEventListener('input', (e) => {
    if (e.target.matches('input[data-colour]')) coloured(e.target.dataset.colour, e.target.value, true);
  });
  root.addEventListener('change', (e) => {
    if (e.target.matches('input[data-colour]')) coloured(e.target.dataset.colour, e.target.value, false);
    if (e.target.matches('input[data-hex]'))
      coloured(
        e.target.dataset.hex,
        e.target.value
          .trim()
          .toLowerCase()
          .replace(/^([0-9a-f])/, '#$1'),
        false,
      );
  });

  root.addEventListener('change', (e) => {
    const list = e.target.closest('select[data-list]');
    if (list) {
      const own = list.selectedOptions[0].dataset.own === 'true';
      list.classList.toggle('ag-tuned', !own);
      changed(list.dataset.list, list.value, own, false);
    }
    const box = e.target.closest('input[data-switch]');
    if (box) {
      const own = (box.dataset.own === 'on') === box.checked;
      box.parentElement.classList.toggle('ag-tuned', !own);
      changed(box.dataset.switch, box.checked, own, false);
    }
  });
}

// values set from elsewhere, such as a handle on a drawing
export function show(id, v) {
  for (const c of document.querySelectorAll(`.ag-ctl[data-control="${CSS.escape(id)}"]`)) {
    c.dataset.value = v;
    paint(c);
  }
}
