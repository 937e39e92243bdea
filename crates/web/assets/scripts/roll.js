// The contact sheet: pictures come in by button or drop, one request a file, with progress.
import { NO_ANSWER } from './page/ask.js';
import { say } from './page/messages.js';

const page = document.getElementById('ag-roll-page');
const list = document.getElementById('ag-contact');
const uploads = document.getElementById('ag-uploads');
const input = document.getElementById('ag-files');
const waiting = [];
let busy = false;

const choose = () => input.click();
document.getElementById('ag-add').addEventListener('click', choose);
document.getElementById('ag-add-here').addEventListener('click', choose);
input.addEventListener('change', () => {
  add(input.files);
  input.value = '';
});
document.addEventListener('keydown', (e) => {
  if (e.code === 'KeyA' && !e.ctrlKey && !e.metaKey && !e.target.closest('input')) {
    e.preventDefault();
    choose();
  }
});

for (const kind of ['dragenter', 'dragover']) {
  page.addEventListener(kind, (e) => {
    e.preventDefault();
    page.classList.add('ag-dropping');
  });
}
page.addEventListener('dragleave', (e) => {
  if (!page.contains(e.relatedTarget)) page.classList.remove('ag-dropping');
});
page.addEventListener('drop', (e) => {
  e.preventDefault();
  page.classList.remove('ag-dropping');
  add(e.dataTransfer.files);
});

function add(files) {
  for (const file of files) waiting.push({ file, line: lineFor(file) });
  next();
}

function lineFor(file) {
  const line = document.createElement('li');
  line.className = 'ag-upload';
  const name = document.createElement('span');
  name.textContent = file.name;
  const state = document.createElement('span');
  state.className = 'ag-note';
  state.textContent = 'waits';
  const bar = document.createElement('progress');
  bar.className = 'ag-progress';
  bar.max = 1;
  bar.value = 0;
  bar.setAttribute('aria-label', `Loading ${file.name}`);
  line.append(name, state, bar);
  uploads.append(line);
  return { line, state, bar };
}

function next() {
  if (busy) return;
  const job = waiting.shift();
  if (!job) return;
  busy = true;
  const {
    file,
    line: { line, state, bar },
  } = job;
  const limit = +page.dataset.uploadMib * 1024 * 1024;
  const done = (problem) => {
    busy = false;
    bar.remove();
    if (problem) {
      state.textContent = problem;
      line.classList.add('ag-bad');
      say(`${file.name}: ${problem}`, { problem: true });
    } else {
      state.textContent = 'done';
      setTimeout(() => line.remove(), 4000);
    }
    next();
  };
  if (file.size > limit) {
    done(`This file is larger than the limit of ${page.dataset.uploadMib} MiB.`);
    return;
  }
  const request = new XMLHttpRequest();
  request.open('POST', `/rolls/${page.dataset.roll}/frames`);
  request.upload.addEventListener('progress', (e) => {
    bar.value = e.total ? (e.loaded / e.total) * 0.9 : 0;
    state.textContent = e.loaded < e.total ? `${Math.round((100 * e.loaded) / e.total)} %` : 'opening';
  });
  request.addEventListener('load', () => {
    if (request.status === 201) {
      insert(request.responseText);
      done();
    } else done(request.responseText || 'That did not work.');
  });
  request.addEventListener('error', () => done(NO_ANSWER));
  const form = new FormData();
  form.append('picture', file, file.name);
  request.send(form);
}

function insert(html) {
  list.insertAdjacentHTML('beforeend', html);
  htmx.process(list.lastElementChild);
  count();
}

function count() {
  const frames = list.querySelectorAll('.ag-frame').length;
  document.getElementById('ag-count').textContent = `${frames} frame${frames === 1 ? '' : 's'}`;
  document.getElementById('ag-empty').hidden = frames > 0;
}
document.body.addEventListener('htmx:afterSwap', count);
document.body.addEventListener('htmx:responseError', (e) => say(e.detail.xhr.responseText, { problem: true }));
document.body.addEventListener('htmx:sendError', () => {
  say(NO_ANSWER, { problem: true });
});
