// One line at the bottom left. Done ones leave after four seconds, problems stay until they are closed.
const SHOWN_MS = 4000;

export function say(text, { problem = false, action } = {}) {
  const place = document.getElementById('ag-messages');
  const line = document.createElement('div');
  line.className = `ag-toastbar${problem ? ' ag-bad' : ''}`;
  const words = document.createElement('span');
  words.textContent = (problem ? '▲ ' : '') + text;
  line.append(words);
  if (action)
    line.append(
      button(action.label, () => {
        line.remove();
        action.run();
      }),
    );
  if (problem) line.append(button('Close', () => line.remove()));
  else setTimeout(() => line.remove(), SHOWN_MS);
  place.replaceChildren(line);
}

function button(label, run) {
  const b = document.createElement('button');
  b.type = 'button';
  b.className = 'ag-b ag-sm ag-out';
  b.textContent = label;
  b.addEventListener('click', run);
  return b;
}
