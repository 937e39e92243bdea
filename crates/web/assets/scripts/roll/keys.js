// Keys of the contact sheet.
export function listenToKeys({ sheet, selection, actions, tools, writing }) {
  const { list, scroll } = sheet;
  const page = () => Math.max(1, Math.floor(scroll.clientHeight / (sheet.rowHeight || 1))) * sheet.columns;
  const steps = {
    ArrowLeft: () => -1,
    ArrowRight: () => 1,
    ArrowUp: () => -sheet.columns,
    ArrowDown: () => sheet.columns,
    PageUp: () => -page(),
    PageDown: () => page(),
    Home: () => -Infinity,
    End: () => Infinity,
  };

  function walk(code, e) {
    const last = sheet.ids.length - 1;
    if (last < 0) return;
    const from = Math.max(0, sheet.place(sheet.current));
    const id = sheet.ids[Math.min(last, Math.max(0, from + steps[code]()))];
    if (e.shiftKey && selection.anchor === null) selection.anchor = sheet.current;
    sheet.look(id);
    if (e.shiftKey) selection.reach(id);
  }

  list.addEventListener('keydown', (e) => {
    if (writing.busy()) return;
    if (steps[e.code] && !e.ctrlKey && !e.altKey) {
      e.preventDefault();
      walk(e.code, e);
    } else if (e.code === 'Space') {
      e.preventDefault();
      if (sheet.current !== null) selection.toggle(sheet.current);
    } else if (e.key === 'Enter') {
      e.preventDefault();
      if (sheet.current !== null) actions.open(sheet.current);
    }
  });

  const letters = {
    KeyA: () => document.getElementById('ag-files').click(),
    KeyM: (e) => (e.shiftKey ? actions.run('note') : actions.mark()),
    KeyQ: () => actions.run('presets'),
    KeyC: () => actions.run('copy'),
    KeyV: (e) => actions.run(e.shiftKey ? 'parts' : 'paste'),
    KeyI: () => actions.run('meter'),
    KeyN: () => actions.run('beside'),
    KeyE: () => actions.run('export'),
    F2: () => actions.write('name'),
    Delete: () => actions.run('off'),
  };

  document.addEventListener('keydown', (e) => {
    const busy = e.target.closest('input, textarea, select, .modal') || document.querySelector('.modal.show');
    if (e.key === 'Escape' && e.target.id === 'ag-words') {
      e.target.value = '';
      tools.ask();
      list.focus();
    }
    if (busy) return;
    if (e.ctrlKey || e.metaKey) {
      if (e.code === 'KeyA') {
        e.preventDefault();
        selection.all();
      }
      if (e.code === 'KeyZ') {
        e.preventDefault();
        actions.takeBack();
      }
      return;
    }
    if (e.altKey) return;
    if (e.key === 'Escape') selection.set([]);
    else if (e.key === '/') {
      e.preventDefault();
      document.getElementById('ag-words').focus();
    } else if (e.key === '+' || e.key === '-') tools.strip(sheet.columns + (e.key === '-' ? 1 : -1));
    else if (e.code === 'Backspace' && e.shiftKey) actions.run('stock');
    else if (letters[e.code] && (!e.shiftKey || ['KeyM', 'KeyV'].includes(e.code))) {
      e.preventDefault();
      letters[e.code](e);
    }
  });
}
