// What a new part begins with: whatever its schema has no default for.
import { copy } from "./paths.js";
import { comparedField, firstValue, fitting } from "./compare.js";
import { fieldsOf, optionsOf } from "./options.js";
import { counts } from "./scope.js";

const NOTHING = { id: "none", name: "" };

const starts = {
  words: () => "",
  filetext: () => "",
  wordlist: () => [],
  clock: () => "18:00",
  number: (_, f) => Math.ceil(f.least ?? 0),
  numbers: () => [0],
  held: () => 30,
  flag: () => false,
  choice: (_, f) => (f.many ? [] : f.choices[0]),
  pick: (scope, f, part) => (f.many ? [] : copy(optionsOf(scope, f, part)[0]?.value) || NOTHING),
  name: (scope, f, part) => {
    const first = optionsOf(scope, f, part)[0]?.value ?? "none";
    return f.many ? [first] : first;
  },
  operator: (scope, _, part) => fitting(scope.catalogue.operators, compared(scope, part))[0]?.name || "is",
  value: (scope, _, part) => {
    const operator = scope.catalogue.operators.find((o) => o.name === part.op);
    return firstValue(operator, compared(scope, part));
  },
  part: (scope, f) => {
    const inner = () => blankPart({ ...scope, kinds: f.kinds || [] }, f.part);
    return f.many ? Array.from({ length: f.least || 0 }, inner) : inner();
  },
  nodes: (scope, f) => {
    const first = () => blankNode(scope, f.of, scope.forms.nodes[f.of].kinds[0].name);
    return f.many ? Array.from({ length: f.least || 0 }, first) : first();
  },
};

function compared(scope, part) {
  return comparedField(fieldsOf(scope.catalogue, scope.kind), part.field);
}

export function blankField(scope, field, part) {
  return field.start !== null ? copy(field.start) : starts[field.widget](scope, field, part);
}

/** Whether a field that has a default begins with something else all the same. */
const begins = (field) => field.start !== null && !field.when;

/** A new part. `kept` are values of an older one, which stay where the new one has the same field. */
export function blankPart(scope, name, kept = {}) {
  const form = scope.forms.parts[name], made = {};
  for (const field of form.fields) {
    if (name !== "Selection" && kept[field.name] !== undefined) made[field.name] = copy(kept[field.name]);
    else if (field.required ? counts(form, field, made) : begins(field)) {
      made[field.name] = blankField(scope, field, made);
    }
  }
  settle(scope, form, made);
  return made;
}

export function blankNode(scope, of, name, kept = {}) {
  const { tag, kinds } = scope.forms.nodes[of];
  return { [tag]: name, ...blankPart(scope, kinds.find((k) => k.name === name).part, kept) };
}

/** A field that has come to mean something begins; one that no longer does goes. */
export function settle(scope, form, part) {
  for (const field of form.fields.filter((f) => f.when)) {
    if (!counts(form, field, part)) delete part[field.name];
    else if (part[field.name] === undefined && (field.optional || field.start !== null || field.default === "")) {
      part[field.name] = blankField(scope, field, part);
    }
  }
}

/** What of an old node a new one of another kind may keep: fields of the same name and control. */
export function keepable(forms, oldPart, newPart, value) {
  const kept = {};
  for (const field of forms.parts[newPart].fields) {
    const before = forms.parts[oldPart]?.fields.find((f) => f.name === field.name);
    const alike = before && ["widget", "of", "only", "part", "many"].every((k) => before[k] === field[k]);
    if (alike && value[field.name] !== undefined) kept[field.name] = value[field.name];
  }
  return kept;
}
