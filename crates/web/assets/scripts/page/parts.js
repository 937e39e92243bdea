// A tree of the parts of a development: what is ticked, a group's tick for all of its parts.
const boxes = (place) => [...place.querySelectorAll('input[data-part]')];

export function ticked(place) {
  const of = (kind) =>
    boxes(place)
      .filter((box) => box.dataset.part === kind && box.checked)
      .map((box) => box.value);
  const is = (kind) => boxes(place).some((box) => box.dataset.part === kind && box.checked);
  return {
    controls: of('control'),
    lists: of('list'),
    lamps: of('lamp'),
    stock: is('stock'),
    placements: is('placements'),
  };
}

// a group's tick is that of all its parts, the first one that of the whole tree
document.addEventListener('change', (e) => {
  if (!e.target.matches?.('input[data-group], input[data-everything]')) return;
  const of = e.target.closest('[data-everything]') ? '.ag-parts' : 'fieldset';
  boxes(e.target.closest(of)).forEach((box) => {
    box.checked = e.target.checked;
  });
});
