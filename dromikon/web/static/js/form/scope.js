// Which part stands where in a document, and whose kind of event its fields speak of.
import { at, stepsOf } from "./paths.js";

/** The name of the part that a value of a field is; empty for what is no part. */
export function partOf(forms, field, value) {
  if (field.widget === "part") return field.part;
  if (field.widget !== "nodes" || !value) return "";
  const { tag, kinds } = forms.nodes[field.of];
  return kinds.find((k) => k.name === value[tag])?.part || "";
}

export const fieldOf = (forms, part, name) => forms.parts[part]?.fields.find((f) => f.name === name);

/** The parts from the document's root down to a path, the root first: [{part, value}]. */
export function partsAlong(forms, doc, path) {
  const found = [{ part: forms.root, value: doc }];
  let part = forms.root, value = doc, field = null;
  for (const step of stepsOf(path)) {
    value = value?.[step];
    // A number stands in the list that the field before it names.
    if (!/^\d+$/.test(step)) field = fieldOf(forms, part, step);
    if (Array.isArray(value)) continue;
    const inner = field ? partOf(forms, field, value) : "";
    if (!inner) break;
    found.push({ part: inner, value });
    part = inner;
    field = null;
  }
  return found;
}

/** The kind of event that names of fields at a path belong to; empty where nothing says it yet. */
export function kindSpokenOf(forms, doc, path) {
  const inner = partsAlong(forms, doc, path).slice(1).reverse().find(({ part }) => forms.parts[part].speaks_of);
  if (inner) return spoken(forms, inner.part, inner.value);
  return doc.cause ? spoken(forms, partOf(forms, fieldOf(forms, forms.root, "cause"), doc.cause), doc.cause) : "";
}

function spoken(forms, part, value) {
  const says = forms.parts[part]?.speaks_of || "";
  if (says.startsWith("=")) return says.slice(1);
  const found = says ? (at(value, says) ?? fieldOf(forms, part, says)?.default) : undefined;
  if (typeof found !== "object" || !found) return found || "";
  return spoken(forms, partOf(forms, fieldOf(forms, part, says.split(".")[0]), found), found);
}

/** Whether a field means something beside the others of its part. */
export function counts(form, field, value) {
  if (!field.when) return true;
  const other = form.fields.find((f) => f.name === field.when.field);
  const stands = value?.[field.when.field] ?? other.default ?? other.choices[0];
  return field.when.values.includes(stands) !== field.when.negated;
}
