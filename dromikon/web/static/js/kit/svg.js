// SVG elements by name, attributes and words.
import { page } from "./page.js";

const SPACE = "http://www.w3.org/2000/svg";

export function shape(name, attributes, words) {
  const node = document.createElementNS(SPACE, name);
  for (const [k, v] of Object.entries(attributes)) node.setAttribute(k, v);
  if (words !== undefined) node.textContent = words;
  return node;
}

/** An icon of the one family; decorative. */
export function symbol(name) {
  const made = shape("svg", { class: "icon-svg", "aria-hidden": "true" });
  made.append(shape("use", { href: `${page.icons}#${name}` }));
  return made;
}
