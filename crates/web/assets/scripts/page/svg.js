// Elements of a drawing as text, one attribute beside another.
const escaped = (v) => String(v).replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/"/g, '&quot;');

export function el(name, attributes = {}, ...inside) {
  const given = Object.entries(attributes).filter(([, v]) => v !== undefined && v !== false);
  const text = given.map(([key, v]) => ` ${key}="${escaped(v)}"`).join('');
  return `<${name}${text}>${inside.join('')}</${name}>`;
}

// Units of a drawing in one pixel of the page: what is drawn is as large as both sides of its place allow.
export const unitsPerPixel = (svg) => 1 / svg.getScreenCTM().a;

// Where a pointer is, in units of the drawing.
export function pointIn(svg, { clientX, clientY }) {
  return new DOMPoint(clientX, clientY).matrixTransform(svg.getScreenCTM().inverse());
}
