// The dialog in which a preset is kept: the parts of the frame are asked for when it opens, as they are then.
import { ask } from './ask.js';
import { ticked } from './parts.js';

const $ = (id) => document.getElementById(id);

// `before()` is waited for before the parts are asked for; `kept(preset)` is told what it became
export function listenToPreset(frame, { before = () => {}, kept }) {
  const dialog = $('ag-preset');
  dialog.addEventListener('show.bs.modal', async () => {
    await before();
    const answer = await ask(`/frames/${frame}/parts`, { method: 'GET' });
    if (answer) dialog.querySelector('[data-parts]').innerHTML = await answer.text();
  });
  dialog.addEventListener('shown.bs.modal', () => $('ag-preset-name').focus());
  $('ag-preset-form').addEventListener('submit', async (e) => {
    e.preventDefault();
    const { name, group, notes } = Object.fromEntries(new FormData(e.target));
    const answer = await ask(`/frames/${frame}/presets`, { json: { name, group, notes, parts: ticked(dialog) } });
    if (!answer) return;
    bootstrap.Modal.getInstance(dialog)?.hide();
    kept(await answer.json());
  });
}
