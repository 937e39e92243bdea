// The pointer on the sheet: a press chooses, with Shift up to here, with Ctrl one more; a drag draws a rectangle round
// several; twice opens.
const DRAG_PX = 5;
const EDGE_PX = 36;
const SCROLL_PX = 14;

export function listenToPointer({ sheet, selection, actions, writing }) {
  const { scroll, list } = sheet;
  const box = document.getElementById('ag-marquee');
  const idOf = (e) => {
    const cell = e.target.closest?.('.ag-frame');
    return cell ? +cell.id.slice(6) : null;
  };
  // in the coordinates of the whole sheet
  const place = (e) => {
    const r = scroll.getBoundingClientRect();
    return [e.clientX - r.left, e.clientY - r.top + scroll.scrollTop];
  };
  let drag = null;

  scroll.addEventListener('pointerdown', (e) => {
    if (e.button !== 0 || writing.busy() || e.target.closest('button, input')) return;
    if (e.clientX > scroll.getBoundingClientRect().left + scroll.clientWidth) return;
    const more = e.ctrlKey || e.metaKey || e.shiftKey;
    drag = { from: place(e), id: idOf(e), before: more ? selection.list : [], moved: false, at: e };
    scroll.setPointerCapture(e.pointerId);
  });

  scroll.addEventListener('pointermove', (e) => {
    if (!drag) return;
    drag.at = e;
    const [x, y] = place(e);
    if (!drag.moved && Math.hypot(x - drag.from[0], y - drag.from[1]) < DRAG_PX) return;
    if (!drag.moved) {
      drag.moved = true;
      requestAnimationFrame(follow);
    }
    draw();
  });

  function draw() {
    const [x, y] = place(drag.at);
    const [left, right] = [Math.min(x, drag.from[0]), Math.max(x, drag.from[0])];
    const [top, bottom] = [Math.min(y, drag.from[1]), Math.max(y, drag.from[1])];
    box.hidden = false;
    Object.assign(box.style, {
      left: `${left}px`,
      top: `${top}px`,
      width: `${right - left}px`,
      height: `${bottom - top}px`,
    });
    selection.set([...drag.before, ...sheet.within({ left, top, right, bottom })]);
  }

  // at the edge the sheet moves on
  function follow() {
    if (!drag?.moved) return;
    const r = scroll.getBoundingClientRect();
    const { clientY } = drag.at;
    const way = clientY < r.top + EDGE_PX ? -1 : clientY > r.bottom - EDGE_PX ? 1 : 0;
    if (way) {
      scroll.scrollTop += way * SCROLL_PX;
      draw();
    }
    requestAnimationFrame(follow);
  }

  scroll.addEventListener('pointerup', (e) => {
    if (!drag) return;
    const { moved, id } = drag;
    drag = null;
    box.hidden = true;
    list.focus({ preventScroll: true });
    if (moved) return;
    if (id === null) {
      selection.set([]);
      return;
    }
    sheet.look(id);
    if (e.shiftKey) selection.reach(id);
    else if (e.ctrlKey || e.metaKey) selection.toggle(id);
    else selection.only(id);
  });
  scroll.addEventListener('pointercancel', () => {
    drag = null;
    box.hidden = true;
  });

  scroll.addEventListener('dblclick', (e) => {
    const cell = document.elementFromPoint(e.clientX, e.clientY)?.closest('.ag-frame');
    if (!cell) return;
    const id = +cell.id.slice(6);
    const on = (part) => document.elementFromPoint(e.clientX, e.clientY).closest(part);
    if (on('.ag-nm')) writing.write('name', id);
    else if (on('.ag-nt')) writing.write('note', id);
    else actions.open(id);
  });
}
