// Elements by description, and the focus that outlives a drawing.

/** el("button", {class: "chip", on: {click}}, "words", child, …): what is null or false is left out. */
export function el(tag, attributes = {}, ...children) {
  const made = document.createElement(tag);
  for (const [name, value] of Object.entries(attributes)) {
    if (name === "on") for (const [event, does] of Object.entries(value)) made.addEventListener(event, does);
    else if (name === "value") made.value = value;
    else if (value === true) made.setAttribute(name, "");
    else if (value !== false && value !== null && value !== undefined) made.setAttribute(name, value);
  }
  made.append(...children.flat().filter((c) => c !== null && c !== undefined && c !== false));
  return made;
}

/** Draw anew inside a root; whoever had the focus has it again, in the control of the same key. */
export function redraw(root, children) {
  const held = root.contains(document.activeElement) ? document.activeElement : null;
  const key = held?.dataset.key, place = held && "selectionStart" in held ? held.selectionStart : null;
  root.replaceChildren(...children);
  if (!key) return;
  const again = root.querySelector(`[data-key="${CSS.escape(key)}"]`);
  again?.focus({ preventScroll: true });
  if (again && place !== null && again.type === "text") again.setSelectionRange(place, place);
}

/** A button: `key` finds it again after a drawing; `more` are attributes besides. */
export function button(key, words, click, more = {}) {
  return el("button", { type: "button", "data-key": key, ...more, on: { click } }, words);
}

/** A button that is down or up. */
export function toggle(key, words, on, click, more = {}) {
  return button(key, words, click, { "aria-pressed": String(Boolean(on)), ...more });
}

/** A pull-down list of [value, words]; `change` is given the chosen value. */
export function select(key, label, options, chosen, change, more = {}) {
  const made = options.map(([value, words]) => el("option", { value, selected: value === chosen }, words));
  const on = { change: (e) => change(e.target.value) };
  return el("select", { class: "inp auto", "aria-label": label, "data-key": key, ...more, on }, made);
}
