// SVG elements by name, attributes and words.

const SPACE = "http://www.w3.org/2000/svg";

export function shape(name, attributes, words) {
  const node = document.createElementNS(SPACE, name);
  for (const [k, v] of Object.entries(attributes)) node.setAttribute(k, v);
  if (words !== undefined) node.textContent = words;
  return node;
}
