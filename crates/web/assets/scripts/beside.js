// Two to four frames side by side: each at the size of its place, its light and print evened by number.
import { ask } from './page/ask.js';
import { say } from './page/messages.js';
import { levelFor } from './picture/levels.js';

const page = document.getElementById('ag-beside-page');
const SETTLE_MS = 250;
const done = [];

function show(section) {
  const image = section.querySelector('img');
  const { frame, version, width, height } = section.dataset;
  const room = section.querySelector('figure').getBoundingClientRect();
  const level = levelFor([+width, +height], [room.width, room.height], window.devicePixelRatio || 1);
  const next = new Image();
  section.dataset.ready = 'false';
  next.addEventListener('load', () => {
    image.src = next.src;
    section.dataset.ready = 'true';
  });
  next.src = `/frames/${frame}/standing?level=${level}&v=${version}`;
}

async function renew(section) {
  const answer = await ask(`/frames/${section.dataset.frame}/card`, { method: 'GET' });
  if (!answer) return;
  const { version, width, height } = await answer.json();
  Object.assign(section.dataset, { version, width, height });
  show(section);
}

const waiting = new Map();
page.addEventListener('change', (e) => {
  const field = e.target.closest('[data-set]');
  if (!field || !field.validity.valid) {
    if (field) say(`${field.previousElementSibling.textContent} goes from ${field.min} to ${field.max}.`);
    return;
  }
  const section = field.closest('[data-frame]');
  clearTimeout(waiting.get(field));
  waiting.set(
    field,
    setTimeout(async () => {
      const values = { [section.dataset.frame]: { [field.dataset.set]: +field.value } };
      const answer = await ask('/selection/values', { json: { values } });
      if (!answer) return;
      const { batch } = await answer.json();
      if (batch) done.push({ batch, section });
      renew(section);
    }, SETTLE_MS),
  );
});

document.addEventListener('keydown', async (e) => {
  if (e.key === 'Escape') location.href = `/rolls/${page.dataset.roll}`;
  if (!(e.ctrlKey || e.metaKey) || e.code !== 'KeyZ' || !done.length) return;
  e.preventDefault();
  if (await ask('/selection/undo', { json: { batch: done.pop().batch } })) location.reload();
});

const sections = [...document.querySelectorAll('[data-frame]')];
sections.forEach(show);
window.addEventListener('resize', () => sections.forEach(show));
