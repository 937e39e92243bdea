// Names and notes, written on the sheet itself.
import { ask } from '../page/ask.js';

const LONGEST = { name: 120, note: 400 };
const WHERE = { name: '.ag-nm', note: '.ag-nt' };

export function listenToWriting(sheet, actions) {
  let field = null;

  // a field in the place of the words; Enter keeps, Esc leaves them
  function write(what, id = actions.lead) {
    const cell = sheet.cells.get(id);
    const place = cell?.querySelector(WHERE[what]);
    if (!place || field) return;
    const before = place.textContent.trim();
    sheet.written = id;
    field = document.createElement('input');
    field.className = 'ag-field ag-inplace';
    field.maxLength = LONGEST[what];
    field.value = before;
    field.setAttribute('aria-label', what === 'name' ? 'Name of the frame' : 'Note');
    place.replaceChildren(field);
    field.focus();
    field.select();
    const close = async (keep) => {
      if (!field) return;
      const text = field.value.trim();
      field = null;
      sheet.written = null;
      place.textContent = before;
      sheet.list.focus({ preventScroll: true });
      const kept = keep && text !== before && (await ask(`/frames/${id}/${what}`, { form: { text } }));
      await sheet.renew([id]);
      if (kept) {
        actions.last = async () => {
          if (await ask(`/frames/${id}/${what}`, { form: { text: before } })) sheet.renew([id]);
        };
      }
    };
    field.addEventListener('keydown', (e) => {
      e.stopPropagation();
      if (e.key === 'Enter') close(true);
      if (e.key === 'Escape') close(false);
    });
    field.addEventListener('blur', () => close(true));
  }

  actions.write = write;
  return { write, busy: () => field !== null };
}
