// Dialogs of the bench: export, keep as a stock of one's own. And what a control is for, in the line at the foot.
import { listenToPreset } from '../page/keep-preset.js';
import { say } from '../page/messages.js';
import { listenToOutput } from '../page/output-form.js';
import { listenToQueue } from '../page/queue.js';

const $ = (id) => document.getElementById(id);

export function listenToDialogs(store) {
  listenToOutput($('ag-export-form'));
  listenToQueue();
  $('ag-export').addEventListener('shown.bs.modal', () => {
    $('ag-export-name').focus();
    $('ag-export-name').select();
  });
  $('ag-keep').addEventListener('shown.bs.modal', () => $('ag-keep-name').focus());
  $('ag-keep-form').addEventListener('submit', (e) => {
    e.preventDefault();
    const form = Object.fromEntries(new FormData(e.target));
    store.post('keep', form).then(() => bootstrap.Modal.getInstance($('ag-keep'))?.hide());
  });
  const board = { label: 'Board of presets', run: () => store.leave(`/frames/${store.frame.id}/presets`) };
  listenToPreset(store.frame.id, {
    before: () => {
      store.flush();
      return store.committing;
    },
    kept: ({ name }) => say(`Kept as ${name}.`, { action: board }),
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
