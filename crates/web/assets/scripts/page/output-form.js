// How a file is written: fields that do not belong to the chosen type or size are put away; numbers follow their
// sliders.
export function listenToOutput(form) {
  const put = () => {
    const { format, size } = Object.fromEntries(new FormData(form));
    const byOrder = !!form.elements.order?.value;
    const show = (part, is) => {
      part.hidden = !is;
      // a field that is put away says nothing
      for (const field of part.querySelectorAll('input, select')) field.disabled = !is;
    };
    for (const part of form.querySelectorAll('[data-of]')) show(part, part.dataset.of.split(' ').includes(format));
    for (const part of form.querySelectorAll('[data-size]')) show(part, part.dataset.size === size);
    form.classList.toggle('ag-by-order', byOrder);
  };
  form.addEventListener('input', (e) => {
    const out = e.target.type === 'range' && form.querySelector(`output[for="${e.target.id}"]`);
    if (out) out.textContent = e.target.value;
  });
  form.addEventListener('change', put);
  put();
}
