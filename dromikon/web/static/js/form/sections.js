// The parts of a rule as they stand on its page: each says in words what it is, and opens where it stands.
import { button, el } from "./dom.js";
import { control, problem } from "./parts.js";

/** What opens and closes a part; its words are put in when they are known. */
export function opener(form, path, label, more = null) {
  const press = () => form.unfold(form.opened === path ? "" : path);
  const words = el("span", { class: "part-words", "data-words": path });
  const open = { class: "part-open", "aria-expanded": "false" };
  return button(`${path}|open`, el("span", { class: "part-title" }, more, label, words), press, open);
}

/** Where findings about a part stand. */
export const findingsOf = (path) => el("div", { class: "part-findings", "data-findings": path });

/** The steps stand in their plan; every other part is a card. */
export function section(form, field) {
  const made = control(form, field, field.name, form.doc[field.name]);
  const places = { id: `part-${field.name}`, "data-field": field.name, "data-widget": field.widget };
  if (field.of === "step") {
    return el("section", { class: "part response", ...places, "aria-label": field.label }, made, problem(field.name));
  }
  const named = field.widget === "flag" ? field.hint : field.label;
  const label = el("h2", { title: field.hint }, named);
  return el("section", { class: "part", ...places, "data-part": field.name },
    opener(form, field.name, label), findingsOf(field.name),
    el("div", { class: "part-body" }, made, problem(field.name)));
}
