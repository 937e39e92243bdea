// Dialogs of the bench: export, keep as a stock of one's own. And what a control is for, in the line at the foot.
import { ask } from '../page/ask.js';
import { say } from '../page/messages.js';
import { ticked } from '../page/parts.js';

const $ = (id) => document.getElementById(id);

export function listenToDialogs(store) {
  $('ag-export-quality').addEventListener('input', (e) => {
    $('ag-quality-out').textContent = e.target.value;
  });
  $('ag-export').addEventListener('shown.bs.modal', () => {
    $('ag-export-name').focus();
    $('ag-export-name').select();
  });
  $('ag-export-form').addEventListener('change', (e) => {
    if (e.target.name === 'format') $('ag-export-quality').disabled = e.target.value === 'tiff';
  });
  $('ag-keep').addEventListener('shown.bs.modal', () => $('ag-keep-name').focus());
  $('ag-keep-form').addEventListener('submit', (e) => {
    e.preventDefault();
    const form = Object.fromEntries(new FormData(e.target));
    store.post('keep', form).then(() => bootstrap.Modal.getInstance($('ag-keep'))?.hide());
  });
  listenToPreset(store);
}

// keeping a preset: its parts are asked for when the dialog opens, as they are then
function listenToPreset(store) {
  const dialog = $('ag-preset');
  dialog.addEventListener('show.bs.modal', async () => {
    store.flush();
    await store.committing;
    const answer = await ask(`/frames/${store.frame.id}/parts`, { method: 'GET' });
    if (answer) dialog.querySelector('[data-parts]').innerHTML = await answer.text();
  });
  dialog.addEventListener('shown.bs.modal', () => $('ag-preset-name').focus());
  $('ag-preset-form').addEventListener('submit', async (e) => {
    e.preventDefault();
    const { name, group, notes } = Object.fromEntries(new FormData(e.target));
    const json = { name, group, notes, parts: ticked(dialog) };
    const answer = await ask(`/frames/${store.frame.id}/presets`, { json });
    if (!answer) return;
    bootstrap.Modal.getInstance(dialog)?.hide();
    const board = { label: 'Board of presets', run: () => store.leave(`/frames/${store.frame.id}/presets`) };
    say(`Kept as ${(await answer.json()).name}.`, { action: board });
  });
}

export function listenToHelp() {
  const help = (e) => {
    const control = e.target.closest?.('[data-control]');
    $('ag-help').textContent = control?.getAttribute('title') ?? '';
    $('ag-app').classList.toggle('ag-helping', !!control);
  };
  document.addEventListener('focusin', help);
  document.addEventListener('pointerover', help);
}
