// Parts are drawn from their description, to any depth: fields of a part, a part inside, one or several of a registry.
import { choices } from "./choices.js";
import { button, el } from "./dom.js";
import { leaves, placesHint } from "./leaves.js";
import { join } from "./paths.js";
import { counts } from "./scope.js";
import { where } from "./where.js";
import { t } from "../kit/words.js";

/** Drawers of controls by widget; those that draw parts themselves join below and in nodes. */
const drawers = { ...leaves, ...choices };
export const draws = (widget, drawer) => { drawers[widget] = drawer; };

/** The control of a field; a field whose control nobody drew would be an error of ours. */
export const control = (form, field, path, value) => drawers[field.widget](form, field, path, value);

draws("part", (form, field, ...rest) => (field.many ? several : inner)(form, field, ...rest));

const INLINE = ["number", "flag", "operator", "value", "clock"];

/** Whether label and control stand in one line: a label in small letters reads on. */
function inLine({ label, widget, timing, bare }) {
  const whole = widget === "part" || widget === "nodes";
  return /^[a-z]/.test(label) || INLINE.includes(widget) || timing || (bare && !whole);
}

/** One field with its label, its control, and what is wrong with it. */
export function field(form, described, path, value) {
  const made = control(form, described, path, value);
  const labelled = described.bare || (described.widget === "flag" && !described.words);
  const inline = inLine(described);
  const hint = described.places ? placesHint(form, path) : described.widget === "part" || inline ? "" : described.hint;
  const quiet = hint && el("span", { class: "quiet" }, ` ${hint}`);
  const label = !labelled && el("span", { class: inline ? "unit" : "label-text" }, described.label, quiet);
  const named = { class: inline ? "field row" : "field", "data-field": path, "data-widget": described.widget };
  return el("div", named, label, made, problem(path));
}

export const problem = (path) => el("span", { class: "problem", role: "alert", "data-problem-at": path });

/** The fields of a part that mean something just now. */
export function fieldsOfPart(form, part, path, value, skip = () => false) {
  const described = form.forms.parts[part];
  return described.fields
    .filter((f) => !skip(f) && counts(described, f, value))
    .map((f) => field(form, f, join(path, f.name), value?.[f.name]));
}

export function part(form, name, path, value) {
  if (name === "Selection") return where(form, null, path, value);
  return el("div", { class: "part-fields" }, fieldsOfPart(form, name, path, value));
}

/** A part inside a part. One that may be missing is switched on and off. */
function inner(form, described, path, value) {
  form.remember(path, described);
  if (!described.optional) return part(form, described.part, path, value ?? described.default ?? {});
  const toggle = (e) => form.set(path, e.target.checked ? form.blank(described, path) : undefined);
  const box = el("input", { type: "checkbox", checked: Boolean(value), "data-key": path, on: { change: toggle } });
  const switched = el("label", { class: "row" }, box, described.hint || described.label);
  return el("div", { class: "stack" }, switched, value && part(form, described.part, path, value));
}

/** Several parts of one sort, numbered. */
function several(form, described, path, value) {
  form.remember(path, described);
  const items = value || [];
  const card = (item, i) => {
    const out = () => form.takeOut(join(path, i), `${described.label} ${i + 1}`);
    const spare = items.length > (described.least || 0);
    const bin = spare && button(`${join(path, i)}|out`, t("Take out"), out, { class: "btn small plain" });
    const head = el("header", {}, el("strong", { class: "grow" }, `${i + 1}`), bin);
    return el("div", { class: "step" }, head, part(form, described.part, join(path, i), item));
  };
  const more = () => form.set(path, [...items, form.blank({ ...described, many: false }, path)]);
  const room = items.length < (described.most || 50);
  const add = room && button(`${path}|more`, `+ ${t("One more")}`, more, { class: "btn small" });
  return el("div", {}, items.map(card), add);
}
