// A stock from a chart: tables to type in, a CSV, or a picture whose corners are dragged.
import { csvOf } from './chart/lines.js';
import { measured, rounded, withColours, withDensities } from './chart/scanned.js';
import { step } from './match/patch.js';
import { ask } from './page/ask.js';
import { say } from './page/messages.js';

const $ = (id) => document.getElementById(id);
const page = $('ag-chart-page');
const published = JSON.parse(page.dataset.published);
const corners = [
  [0.1, 0.1],
  [0.9, 0.1],
  [0.9, 0.9],
  [0.1, 0.9],
];
let scan = null;

function row(table, cells, labels) {
  const tr = document.createElement('tr');
  cells.forEach((value, i) => {
    const td = document.createElement('td');
    const input = document.createElement('input');
    input.className = 'ag-field num';
    input.value = value;
    input.setAttribute('aria-label', `${labels[i]}, row ${table.rows.length + 1}`);
    if (i > 0 || table.parentElement.id === 'ag-wedge') input.inputMode = 'decimal';
    td.append(input);
    tr.append(td);
  });
  table.append(tr);
}

const tableOf = (id) => document.querySelector(`#${id} tbody`);
const WEDGE = ['Log exposure', 'Red', 'Green', 'Blue'];
const PATCH = ['Patch', 'L*', 'a*', 'b*', 'L* printed', 'a* printed', 'b* printed'];

function fill(wedge, patches) {
  const [steps, colours] = [tableOf('ag-wedge'), tableOf('ag-patches')];
  steps.replaceChildren();
  colours.replaceChildren();
  wedge.forEach((cells) => row(steps, cells, WEDGE));
  patches.forEach((cells) => row(colours, cells, PATCH));
}

const cellsOf = (id) =>
  [...tableOf(id).rows].map((tr) => [...tr.querySelectorAll('input')].map((input) => input.value));

function csv() {
  return csvOf({
    kind: $('ag-chart-kind').value,
    name: $('ag-chart-name').value,
    iso: $('ag-chart-iso').value,
    print: $('ag-chart-print').value,
    seen: $('ag-chart-seen').value,
    wedge: cellsOf('ag-wedge'),
    patches: cellsOf('ag-patches'),
  });
}

const empty = (count, cells) => Array.from({ length: count }, () => Array(cells).fill(''));
fill(
  Array.from({ length: 21 }, (_, i) => [rounded(-2.4 + 0.15 * i), '', '', '']),
  empty(24, 7).map((cells, i) => [String(i + 1), ...cells.slice(1)]),
);

function layers() {
  const one = $('ag-chart-kind').value === 'bw-negative';
  page.classList.toggle('ag-onelayer', one);
  document.querySelectorAll('#ag-wedge th')[1].textContent = one ? 'density' : 'red';
}
$('ag-chart-kind').addEventListener('change', layers);
$('ag-step-add').addEventListener('click', () => row(tableOf('ag-wedge'), ['', '', '', ''], WEDGE));

$('ag-published').addEventListener('change', (e) => {
  const values = published[e.target.value];
  e.target.value = '';
  if (!values) return;
  const printed = cellsOf('ag-patches').map((cells) => cells.slice(4));
  const patches = values.map(([name, lab], i) => [name, ...lab.map(rounded), ...(printed[i] ?? ['', '', ''])]);
  fill(cellsOf('ag-wedge'), patches);
});

$('ag-chart-open').addEventListener('click', () => $('ag-chart-file').click());
$('ag-chart-file').addEventListener('change', async (e) => {
  const [file] = e.target.files;
  e.target.value = '';
  if (!file) return;
  const answer = await ask('/charts/read', { json: { csv: await file.text() } });
  if (!answer) return;
  const chart = await answer.json();
  $('ag-chart-kind').value = chart.kind;
  $('ag-chart-name').value = chart.name;
  $('ag-chart-iso').value = chart.iso;
  $('ag-chart-print').value = chart.print ?? '';
  $('ag-chart-seen').value = chart.seen;
  fill(
    chart.wedge.map((s) => [s.log_exposure, ...s.density, '', ''].slice(0, 4).map((v) => (v === '' ? '' : rounded(v)))),
    chart.patches.map((p) => [p.name, ...p.reference.map(rounded), ...(p.measured?.map(rounded) ?? ['', '', ''])]),
  );
  layers();
});

$('ag-chart-save').addEventListener('submit', (e) => {
  e.target.elements.csv.value = csv();
});

$('ag-chart-fit').addEventListener('click', async () => {
  const answer = await ask('/charts/fit', { json: { csv: csv() } });
  if (!answer) return;
  $('ag-matched').innerHTML = await answer.text();
  window.htmx.process($('ag-matched'));
});

page.addEventListener('click', async (e) => {
  const cancel = e.target.closest('[data-cancel-match]');
  if (cancel) {
    await ask(`/matches/${cancel.dataset.cancelMatch}`, { method: 'DELETE' });
    $('ag-matched').innerHTML = '';
    return;
  }
  const keep = e.target.closest('[data-keep-fit]');
  if (!keep) return;
  const answer = await ask(`/matches/${keep.dataset.keepFit}/stock`, {});
  if (!answer) return;
  keep.disabled = true;
  say(`Kept as ${(await answer.json()).name}. It stands on the stock board under Mine.`);
});
document.body.addEventListener('htmx:responseError', (e) => {
  if (!e.detail.requestConfig.path.startsWith('/matches/')) return;
  $('ag-matched').innerHTML = '';
  say(e.detail.xhr.responseText, { problem: true });
});

// the picture of the patches
const box = $('ag-scan');
function draw() {
  const between = (a, b, t) => a.map((v, i) => v + t * (b[i] - v));
  const [across, down] = ['ag-across', 'ag-down'].map((id) => Math.max(1, Number($(id).value) || 1));
  const lines = [];
  for (let i = 0; i <= across; i++) {
    const t = i / across;
    lines.push([between(corners[0], corners[1], t), between(corners[3], corners[2], t)]);
  }
  for (let i = 0; i <= down; i++) {
    const t = i / down;
    lines.push([between(corners[0], corners[3], t), between(corners[1], corners[2], t)]);
  }
  const path = lines.map(([a, b]) => `M${100 * a[0]} ${100 * a[1]}L${100 * b[0]} ${100 * b[1]}`).join('');
  const shape = document.createElementNS('http://www.w3.org/2000/svg', 'path');
  shape.setAttribute('class', 'ag-matchpatch');
  shape.setAttribute('d', path);
  box.querySelector('svg').replaceChildren(shape);
  box.querySelectorAll('[data-corner]').forEach((corner) => {
    const [x, y] = corners[corner.dataset.corner];
    corner.style.setProperty('left', `${100 * x}%`);
    corner.style.setProperty('top', `${100 * y}%`);
  });
}
const bounded = (v) => Math.min(1, Math.max(0, v));
box.querySelectorAll('[data-corner]').forEach((corner) => {
  const index = corner.dataset.corner;
  let held = false;
  corner.addEventListener('pointerdown', (e) => {
    held = true;
    corner.setPointerCapture(e.pointerId);
  });
  corner.addEventListener('pointermove', (e) => {
    if (!held) return;
    const at = box.querySelector('img').getBoundingClientRect();
    corners[index] = [bounded((e.clientX - at.left) / at.width), bounded((e.clientY - at.top) / at.height)];
    draw();
  });
  for (const end of ['pointerup', 'pointercancel'])
    corner.addEventListener(end, () => {
      held = false;
    });
  corner.addEventListener('keydown', (e) => {
    const by = step(e);
    if (!by) return;
    e.preventDefault();
    corners[index] = corners[index].map((v, i) => bounded(v + by[i] / 2));
    draw();
  });
});
['ag-across', 'ag-down'].forEach((id) => $(id).addEventListener('input', draw));

$('ag-scan-open').addEventListener('click', () => $('ag-scan-file').click());
$('ag-scan-file').addEventListener('change', async (e) => {
  const [file] = e.target.files;
  e.target.value = '';
  if (!file) return;
  const body = new FormData();
  body.append('file', file);
  const answer = await ask('/references', { body });
  if (!answer) return;
  scan = (await answer.json()).id;
  box.querySelector('img').src = `/frames/${scan}/thumbnail?original=true`;
  box.hidden = false;
  $('ag-scan-read').disabled = false;
  draw();
});
// a wedge has as many fields as the table has steps
$('ag-scan-of').addEventListener('change', (e) => {
  const wedge = e.target.value === 'wedge';
  $('ag-scan-hint').hidden = !wedge;
  $('ag-across').value = wedge ? cellsOf('ag-wedge').length : 6;
  $('ag-down').value = wedge ? 1 : 4;
  draw();
});

async function readPatches(fields) {
  const answer = await ask(`/frames/${scan}/patches`, { json: fields });
  if (!answer) return;
  const read = await answer.json();
  fill(cellsOf('ag-wedge'), withColours(cellsOf('ag-patches'), read));
  say(`${read.length} patches were read.`);
}

async function readWedge(fields) {
  const count = $('ag-chart-kind').value === 'bw-negative' ? 1 : 3;
  const steps = cellsOf('ag-wedge');
  const asked = { fields, layers: count, measured: measured(steps, count) };
  const answer = await ask(`/frames/${scan}/wedge`, { json: asked });
  if (!answer) return;
  const { rows, read } = withDensities(steps, await answer.json(), count);
  fill(rows, cellsOf('ag-patches'));
  say(`${read} steps were read; those that were typed stay.`);
}

$('ag-scan-read').addEventListener('click', () => {
  const [across, down] = ['ag-across', 'ag-down'].map((id) => Number($(id).value));
  const read = $('ag-scan-of').value === 'wedge' ? readWedge : readPatches;
  return read({ corners, across, down });
});

document.addEventListener('keydown', (e) => {
  if (e.key === 'Escape' && !e.target.closest('input, select')) location.href = page.dataset.back;
});
