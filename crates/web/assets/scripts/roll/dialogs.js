// Dialogs of the roll: a form each, closed when what it asks for was done.
const $ = (id) => document.getElementById(id);

export class Dialogs {
  open(id) {
    bootstrap.Modal.getOrCreateInstance($(id)).show();
  }

  // `act` gets the form's values; the dialog stays where it gives false
  on(id, act) {
    $(id).addEventListener('shown.bs.modal', () => $(id).querySelector('input, select')?.focus());
    $(`${id}-form`).addEventListener('submit', async (e) => {
      e.preventDefault();
      const done = await act(Object.fromEntries(new FormData(e.target)));
      if (done !== false) bootstrap.Modal.getInstance($(id))?.hide();
    });
    $(id).addEventListener('hidden.bs.modal', () => $('ag-contact').focus({ preventScroll: true }));
  }
}
