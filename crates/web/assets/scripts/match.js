// Matching: marks and patches on two pictures, proposals, and what of them is taken.
import { ask } from './page/ask.js';
import { say } from './page/messages.js';
import { patchOf, step } from './match/patch.js';

const $ = (id) => document.getElementById(id);
const page = $('ag-match-page');
const { frame, with: other, as } = page.dataset;
const found = $('ag-matched');
const marks = { grey: null, face: null };
let patch = null;
let marking = null;

const number = (id) => ($(id)?.value ? Number($(id).value) : null);

function show(html) {
  found.innerHTML = html;
  window.htmx.process(found);
  found.scrollIntoView({ block: 'start' });
}

async function during(button, work) {
  button.disabled = true;
  button.setAttribute('aria-busy', 'true');
  const answer = await work();
  button.disabled = false;
  button.removeAttribute('aria-busy');
  if (answer) show(await answer.text());
}

// where on a picture, in shares of its sides
function place(picture, e) {
  const box = picture.querySelector('img').getBoundingClientRect();
  return [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height].map((v) =>
    Math.min(1, Math.max(0, v)),
  );
}

function drawn(picture, shapes) {
  const svg = picture.querySelector('svg');
  svg.innerHTML = '';
  for (const { name, ...attributes } of shapes) {
    const shape = document.createElementNS('http://www.w3.org/2000/svg', name);
    Object.entries(attributes).forEach(([k, v]) => shape.setAttribute(k, v));
    svg.append(shape);
  }
}

function drawMarks() {
  const ring = ([x, y], kind) => [
    { name: 'ellipse', class: `ag-matchmark ag-${kind}`, cx: 100 * x, cy: 100 * y, rx: 1.4, ry: 2 },
  ];
  drawn(
    $('ag-match-frame'),
    Object.entries(marks).flatMap(([kind, at]) => (at ? ring(at, kind) : [])),
  );
  for (const button of document.querySelectorAll('[data-mark]')) {
    const kind = button.dataset.mark;
    button.setAttribute('aria-pressed', marking === kind);
    button.textContent = `${marks[kind] ? 'Unmark' : 'Mark'} a ${kind}`;
  }
}

function drawPatch() {
  if (!$('ag-match-other')) return;
  const [x, y, width, height] = (patch ?? [0, 0, 0, 0]).map((v) => 100 * v);
  drawn($('ag-match-other'), patch ? [{ name: 'rect', class: 'ag-matchpatch', x, y, width, height }] : []);
  $('ag-patch-none').hidden = !patch;
  $('ag-patch-words').textContent = patch ? 'Grain of the patch' : 'Drag a patch for grain';
}

document.querySelectorAll('[data-mark]').forEach((button) =>
  button.addEventListener('click', () => {
    const kind = button.dataset.mark;
    if (marks[kind]) {
      marks[kind] = null;
      marking = null;
    } else {
      marking = marking === kind ? null : kind;
      if (marking) {
        say(`Press on the ${kind} in the picture, or move the mark with the arrows.`);
        $('ag-match-frame').focus();
      }
    }
    drawMarks();
  }),
);

const mine = $('ag-match-frame');
mine.addEventListener('pointerdown', (e) => {
  if (!marking || e.button !== 0) return;
  marks[marking] = place(mine, e);
  marking = null;
  drawMarks();
});
mine.addEventListener('keydown', (e) => {
  const by = step(e);
  const kind = marking ?? Object.keys(marks).find((k) => marks[k]);
  if (!by || !kind) return;
  e.preventDefault();
  marks[kind] = (marks[kind] ?? [0.5, 0.5]).map((v, i) => Math.min(1, Math.max(0, v + by[i])));
  drawMarks();
});

const theirs = $('ag-match-other');
if (theirs) {
  let from = null;
  theirs.addEventListener('pointerdown', (e) => {
    if (e.button !== 0) return;
    e.preventDefault();
    theirs.setPointerCapture(e.pointerId);
    from = place(theirs, e);
  });
  theirs.addEventListener('pointermove', (e) => {
    if (!from) return;
    patch = patchOf(from, place(theirs, e));
    drawPatch();
  });
  for (const end of ['pointerup', 'pointercancel'])
    theirs.addEventListener(end, () => {
      from = null;
    });
  theirs.addEventListener('keydown', (e) => {
    const by = step(e);
    if (!by) return;
    e.preventDefault();
    const [x, y, w, h] = patch ?? [0.4, 0.4, 0.2, 0.2];
    const moved = e.altKey ? [x, y, w + by[0], h + by[1]] : [x + by[0], y + by[1], w, h];
    patch = patchOf([moved[0], moved[1]], [moved[0] + moved[2], moved[1] + moved[3]]);
    drawPatch();
  });
  $('ag-patch-none').addEventListener('click', () => {
    patch = null;
    drawPatch();
  });
  $('ag-match-form').addEventListener('submit', (e) => {
    e.preventDefault();
    during($('ag-match-look'), () => ask(`/frames/${frame}/match/look`, { form: { with: other, as } }));
  });
  $('ag-match-grain').addEventListener('click', (e) => {
    const json = { with: Number(other), as, patch, long_edge: number('ag-long-edge') };
    during(e.currentTarget, () => ask(`/frames/${frame}/match/grain`, { json }));
  });
}

$('ag-seat-form').addEventListener('submit', (e) => {
  e.preventDefault();
  const json = {
    ...marks,
    grey_zone: number('ag-grey-zone'),
    face_zone: number('ag-face-zone'),
    print_cm: number('ag-print-cm'),
    distance_cm: number('ag-distance-cm'),
  };
  during($('ag-seat'), () => ask(`/frames/${frame}/match/seat`, { json }));
});

function taken() {
  location.href = `/frames/${frame}`;
}

page.addEventListener('click', async (e) => {
  const values = e.target.closest('[data-take-values]');
  if (values) {
    const json = { label: 'Matched', values: { [frame]: JSON.parse(values.dataset.takeValues) } };
    if (await ask('/selection/values', { json })) taken();
    return;
  }
  if (e.target.closest('[data-leave]')) {
    found.innerHTML = '';
    return;
  }
  const cancel = e.target.closest('[data-cancel-match]');
  if (cancel) {
    await ask(`/matches/${cancel.dataset.cancelMatch}`, { method: 'DELETE' });
    found.innerHTML = '';
    return;
  }
  const look = e.target.closest('[data-take-look]')?.closest('.ag-matchlook');
  if (!look) return;
  const parts = [...look.querySelectorAll('[data-part]:checked')].map((box) => box.dataset.part);
  const json = {
    revision: Number(page.dataset.revision),
    number: Number(look.dataset.number),
    stock: parts.includes('stock'),
    values: parts.filter((part) => part !== 'stock'),
  };
  if (await ask(`/matches/${look.dataset.job}/take`, { json })) taken();
});

$('ag-reference-open').addEventListener('click', () => $('ag-reference-file').click());
$('ag-reference-file').addEventListener('change', async (e) => {
  const [file] = e.target.files;
  if (!file) return;
  const body = new FormData();
  body.append('file', file);
  const answer = await ask('/references', { body });
  if (answer) location.search = `?with=${(await answer.json()).id}&as=original`;
});

// a match that failed says so itself
document.body.addEventListener('htmx:responseError', (e) => {
  if (!e.detail.requestConfig.path.startsWith('/matches/')) return;
  found.innerHTML = '';
  say(e.detail.xhr.responseText, { problem: true });
});

document.addEventListener('keydown', (e) => {
  if (e.key !== 'Escape') return;
  if (marking) {
    marking = null;
    drawMarks();
  } else location.href = `/frames/${frame}`;
});
