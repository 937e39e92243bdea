// Elements of a drawing as text, one attribute beside another.
const escaped = (v) => String(v).replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/"/g, '&quot;');

export function el(name, attributes = {}, ...inside) {
  const given = Object.entries(attributes).filter(([, v]) => v !== undefined && v !== false);
  const text = given.map(([key, v]) => ` ${key}="${escaped(v)}"`).join('');
  return `<${name}${text}>${inside.join('')}</${name}>`;
}
