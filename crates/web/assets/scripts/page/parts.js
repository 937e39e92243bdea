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

document.addEventListener('change', (e) => {
  if (!e.target.matches?.('input[data-group]')) return;
  boxes(e.target.closest('fieldset')).forEach((box) => {
    box.checked = e.target.checked;
  });
});
