// Metering a roll: what is proposed is taken frame by frame or together, and taken back as one.
import { ask } from './page/ask.js';
import { say } from './page/messages.js';

const $ = (id) => document.getElementById(id);
const page = $('ag-metering-page');
const { roll, ids } = page.dataset;
const rows = () => [...document.querySelectorAll('[data-row]')];
const box = (row) => row.querySelector('[data-take-frame]');

async function take(some) {
  if (!some.length) return null;
  const values = Object.fromEntries(some.map((row) => [row.dataset.row, JSON.parse(row.dataset.proposed)]));
  const answer = await ask('/selection/values', { json: { values } });
  return answer ? answer.json() : null;
}

$('ag-take-all').addEventListener('click', async () => {
  const done = await take(rows().filter((row) => box(row).checked));
  if (!done) {
    say('Nothing is ticked.');
    return;
  }
  sessionStorage.setItem('ag-done', JSON.stringify(done));
  location.href = `/rolls/${roll}`;
});

page.addEventListener('click', async (e) => {
  const button = e.target.closest('[data-take-one]');
  if (!button) return;
  const row = button.closest('[data-row]');
  const done = await take([row]);
  if (!done) return;
  button.disabled = box(row).disabled = true;
  box(row).checked = false;
  button.textContent = 'Taken';
  const undo = async () => {
    if (await ask('/selection/undo', { json: { batch: done.batch } })) location.reload();
  };
  say(done.message, { action: { label: 'Undo', run: undo } });
});

$('ag-all').addEventListener('change', (e) => {
  rows().forEach((row) => {
    if (!box(row).disabled) box(row).checked = e.target.checked;
  });
});
for (const id of ['ag-hold', 'ag-seat-all'])
  $(id).addEventListener('change', () => {
    location.href = `/rolls/${roll}/metering?ids=${ids}&hold=${$('ag-hold').checked}&seat=${$('ag-seat-all').checked}`;
  });
document.addEventListener('keydown', (e) => {
  if (e.key === 'Escape') location.href = `/rolls/${roll}`;
  if (e.key === 'Enter' && !e.target.closest('button, a, input')) $('ag-take-all').click();
});
