// The dialog of exports: names as they will be, and lab orders that are kept, taken out and deleted.
import { ask } from '../page/ask.js';
import { say } from '../page/messages.js';
import { listenToOutput } from '../page/output-form.js';

const $ = (id) => document.getElementById(id);

export function listenToOrders(frames) {
  const form = $('ag-roll-export-form');
  const filled = () => ({ ...Object.fromEntries(new FormData(form)), frames: frames() });
  listenToOutput(form);
  listenToNames(form, filled);
  const order = $('ag-export-order');
  const chosen = () => {
    $('ag-order-file').hidden = $('ag-order-remove').hidden = !order.value;
    $('ag-order-file').href = `/orders/${encodeURIComponent(order.value)}/file`;
  };
  order.addEventListener('change', chosen);
  $('ag-order-keep').addEventListener('click', async () => {
    const called = $('ag-order-name').value.trim();
    const answer = await ask('/orders', { json: { ...filled(), called } });
    if (!answer) return;
    if (![...order.options].some((option) => option.value === called)) {
      order.add(new Option(`the order ${called}`, called));
    }
    $('ag-order-name').value = '';
    say(`Kept as the order ${called}.`);
  });
  $('ag-order-remove').addEventListener('click', async () => {
    const name = order.value;
    if (!(await ask(`/orders/${encodeURIComponent(name)}`, { method: 'DELETE' }))) return;
    order.selectedOptions[0].remove();
    order.dispatchEvent(new Event('change', { bubbles: true }));
    say(`The order ${name} is deleted.`);
  });
}

// the names that the chosen frames would get, while they are written
function listenToNames(form, filled) {
  const place = $('ag-export-names');
  let asking = null;
  const renew = async () => {
    asking?.abort();
    asking = new AbortController();
    const { signal } = asking;
    const json = filled();
    const answer = await ask('/selection/exports/names', { json, signal, quiet: true });
    // a newer question may come while the answer is read
    const { names = [], why = '' } = (await answer?.json().catch(() => null)) ?? {};
    if (signal.aborted) return;
    const more = json.frames.length > names.length ? ' …' : '';
    place.textContent = names.length ? names.join(', ') + more : why;
  };
  form.addEventListener('input', renew);
  form.addEventListener('change', renew);
  $('ag-roll-export').addEventListener('shown.bs.modal', renew);
}
