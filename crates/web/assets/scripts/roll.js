// The roll: a contact sheet of which only what is seen is on the page, frames that are chosen, what is done to them.
import { ask } from './page/ask.js';
import { say } from './page/messages.js';
import { Actions } from './roll/actions.js';
import { Dialogs } from './roll/dialogs.js';
import { listenToKeys } from './roll/keys.js';
import { Loading } from './roll/loading.js';
import { listenToPointer } from './roll/pointer.js';
import { Selection } from './roll/selection.js';
import { Sheet } from './roll/sheet.js';
import { Tools } from './roll/tools.js';
import { listenToWriting } from './roll/writing.js';
import { NO_ANSWER } from './page/ask.js';

const page = document.getElementById('ag-roll-page');
const state = JSON.parse(document.getElementById('ag-state').textContent);
const roll = +page.dataset.roll;

const sheet = new Sheet(document.getElementById('ag-contact'), document.getElementById('ag-scroll'));
const selection = new Selection(roll, sheet);
const tools = new Tools(roll, sheet, selection, state);
const dialogs = new Dialogs();
const actions = new Actions({ roll, sheet, selection, tools, dialogs });
const writing = listenToWriting(sheet, actions);
new Loading(page, roll, (id, instead) => {
  if (instead !== undefined) {
    tools.removed([instead]);
    actions.renewOff();
  }
  tools.added(id);
});
listenToPointer({ sheet, selection, actions, writing });
listenToKeys({ sheet, selection, actions, tools, writing });

// frames that were taken off: brought back, or deleted for good
page.addEventListener('click', async (e) => {
  const bring = e.target.closest('[data-bring]');
  if (bring) await actions.bringBack([+bring.dataset.bring]);
  const gone = e.target.closest('[data-destroy]');
  if (!gone) return;
  if (gone.dataset.sure === undefined) {
    gone.dataset.sure = '';
    gone.textContent = 'Sure?';
    gone.setAttribute('aria-label', `Delete ${gone.dataset.name} and its original for good: press again`);
    return;
  }
  if (await ask(`/frames/${gone.dataset.destroy}`, { method: 'DELETE' })) {
    say(`${gone.dataset.name} is deleted.`);
    actions.renewOff();
  }
});
document.body.addEventListener('htmx:responseError', (e) => say(e.detail.xhr.responseText, { problem: true }));
document.body.addEventListener('htmx:sendError', () => say(NO_ANSWER, { problem: true }));

tools.begin();
