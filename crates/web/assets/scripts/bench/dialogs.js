// Dialogs of the bench: export, keep as a stock of one's own. And what a control is for, in the line at the foot.
import { listenToPreset } from '../page/keep-preset.js';
import { say } from '../page/messages.js';

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
