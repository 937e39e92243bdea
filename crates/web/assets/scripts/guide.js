// The guide's index: controls found by words of their names, their columns and their ids.
const field = document.getElementById('ag-find');
const found = document.getElementById('ag-found');
const entries = [...document.querySelectorAll('[data-entry]')].map((entry) => {
  const heading = entry.closest('[data-heading]').querySelector('h3').textContent;
  const part = entry.closest('[data-part]').querySelector('h2').textContent;
  return { entry, text: `${entry.textContent} ${heading} ${part} ${entry.href}`.toLowerCase() };
});

function find() {
  const words = field.value.toLowerCase().split(/\s+/).filter(Boolean);
  let count = 0;
  for (const { entry, text } of entries) {
    entry.hidden = !words.every((word) => text.includes(word));
    if (!entry.hidden) count += 1;
  }
  for (const section of document.querySelectorAll('[data-heading], [data-part]'))
    section.hidden = section.querySelector('[data-entry]:not([hidden])') === null;
  if (!words.length) found.textContent = '';
  else found.textContent = count ? `${count} found` : 'None is called that. Try a shorter word.';
}

field.addEventListener('input', find);
field.addEventListener('keydown', (e) => {
  if (e.key === 'Enter') document.querySelector('[data-entry]:not([hidden])')?.click();
});
document.addEventListener('keydown', (e) => {
  if (e.key !== '/' || e.target.closest('input')) return;
  field.focus();
  e.preventDefault();
});
document.querySelector('[data-entry][aria-current]')?.scrollIntoView({ block: 'center' });
