// Controls that offer something: values of the type, things of the site, fields and how they are compared.
import { comparedField, firstValue, fitting, keptValue, typedValue } from "./compare.js";
import { button, el, select } from "./dom.js";
import { at, join, parentOf } from "./paths.js";
import { optionsOf, same } from "./options.js";
import { t } from "../kit/words.js";

// More options than this are a list to pull down, not a row of chips.
const ROW = 8;
// Of more than these, several are chosen by typing.
const MANY = 24;

function toggled(form, path, field, option, chosen) {
  const held = chosen.some((v) => same(v, option.value));
  form.set(path, held ? chosen.filter((v) => !same(v, option.value)) : [...chosen, option.value]);
}

function chips(form, field, path, options, chosen) {
  const press = (o) => () => {
    if (field.many) toggled(form, path, field, o, chosen);
    else form.set(path, field.optional && same(chosen[0], o.value) ? undefined : o.value);
  };
  const look = field.widget === "choice" && !field.many ? null : "chip";
  const made = options.map((o) =>
    el("button", {
      class: look, type: "button", "aria-pressed": String(chosen.some((v) => same(v, o.value))), title: o.detail,
      "data-key": `${path}|${o.value.id ?? o.value}`, on: { click: press(o) },
    }, o.words),
  );
  if (!made.length) return el("span", { class: "quiet" }, `This site has no ${field.of || "choice"} yet.`);
  const named = { role: "group", "aria-label": field.label, title: field.hint };
  return el("span", { class: look ? "chips" : "choice", ...named }, made);
}

/** What is chosen, and what fits the words that are typed. */
function searched(form, field, path, options, chosen) {
  const holder = el("div", {});
  const fill = () => {
    const wanted = (form.searches.get(path) || "").toLowerCase();
    const held = (o) => chosen.some((v) => same(v, o.value));
    const fits = wanted ? options.filter((o) => !held(o) && o.words.toLowerCase().includes(wanted)) : [];
    const shown = [...options.filter(held), ...fits.slice(0, MANY)];
    holder.replaceChildren(shown.length ? chips(form, field, path, shown, chosen) : "");
  };
  const input = (e) => { form.searches.set(path, e.target.value); fill(); };
  const search = el("input", {
    class: "inp", type: "search", placeholder: t("Type to find among {n}", { n: options.length }),
    "aria-label": field.label, "data-key": `${path}|search`, value: form.searches.get(path) || "", on: { input },
  });
  fill();
  return el("div", { class: "stack" }, search, holder);
}

function pulldown(form, field, path, options, chosen) {
  const nothing = field.optional ? field.hint || "—" : "choose …";
  const none = (field.optional || !chosen.length) && el("option", { value: "" }, nothing);
  const made = grouped(options, (o, i) =>
    el("option", { value: String(i), selected: same(o.value, chosen[0]) }, o.words));
  const change = (e) => form.set(path, e.target.value === "" ? undefined : options[Number(e.target.value)].value);
  const named = { class: "inp auto", "aria-label": field.label, title: field.hint, "data-key": path };
  return el("select", { ...named, on: { change } }, none, made);
}

/** Options that say a group stand under its name. */
function grouped(options, draw) {
  const drawn = options.map((o, i) => ({ group: o.group || "", node: draw(o, i) }));
  const groups = Map.groupBy(drawn, (d) => d.group);
  return [...groups].flatMap(([group, found]) => {
    const nodes = found.map((d) => d.node);
    return group ? [el("optgroup", { label: group }, nodes)] : nodes;
  });
}

function offered(form, field, path, value) {
  const part = at(form.doc, parentOf(path));
  const options = optionsOf(form.scope(path), field, part);
  const shown = value ?? field.default;
  const chosen = (field.many ? shown : shown === null || shown === undefined || shown === "" ? [] : [shown]) || [];
  const rather = field.widget === "name" && ["kind", "phase", "field", "point_kind"].includes(field.of);
  if (field.many && options.length > MANY) return searched(form, field, path, options, chosen);
  const long = !field.many && (rather || field.timing || options.length > ROW);
  const drawn = long ? pulldown(form, field, path, options, chosen) : chips(form, field, path, options, chosen);
  return MADE[field.of] && form.make ? el("span", { class: "row wrap" }, drawn, maker(form, field, path)) : drawn;
}

/** What can be made in the middle of choosing it: the sort of set-up, and the list of the catalogue that it joins. */
const MADE = { hours: ["hours", t("New hours")] };

function maker(form, field, path) {
  const [sort, words] = MADE[field.of];
  const made = (ref) => {
    form.catalogue[sort].push(ref);
    form.set(path, ref);
  };
  const click = () => form.make(sort, form.catalogue, made);
  return button(`${path}|make`, `+ ${words}`, click, { class: "btn small" });
}

// -- comparisons ---------------------------------------------------------------------------------------------------

function compared(form, path) {
  const part = at(form.doc, parentOf(path));
  const field = comparedField(form.scope(path).fields, part.field);
  return { part, field, operator: form.catalogue.operators.find((o) => o.name === part.op) };
}

function operator(form, field, path) {
  const { part, field: what } = compared(form, path);
  const change = (name) => {
    const next = form.catalogue.operators.find((o) => o.name === name);
    form.set(join(parentOf(path), "value"), keptValue(next, what, part.value), false);
    form.set(path, next.name);
  };
  const fits = fitting(form.catalogue.operators, what);
  // One that does not fit the field any more stays to be seen.
  const shown = form.catalogue.operators.filter((o) => fits.includes(o) || o.name === part.op);
  return select(path, field.label, shown.map((o) => [o.name, o.words]), part.op, change);
}

function value(form, field, path) {
  const { part, field: what, operator: op } = compared(form, path);
  if (what.choices.length && op && !op.numeric) return chosenValue(form, field, path, what, op, part.value);
  const box = (place) => typed(form, field, path, what, op, place);
  const boxes = op?.name === "between" ? [box(0), "and", box(1)] : [box(null)];
  return el("span", { class: "row" }, boxes, unit(what), el("datalist", { id: `${path}|seen` }));
}

const unit = (what) => what.unit && el("span", { class: "unit" }, what.unit);

function chosenValue(form, field, path, what, op, now) {
  const chosen = Array.isArray(now) ? now : [now];
  const options = what.choices.map((c) => ({ value: c, words: what.words?.[c] || c, detail: "" }));
  const several = { ...field, many: op.many, optional: false, of: "value" };
  return chips(form, several, path, options, chosen);
}

function typed(form, field, path, what, op, place) {
  const now = at(form.doc, path);
  const numeric = op?.numeric || what.type === "number";
  const shown = place !== null ? now[place] : Array.isArray(now) ? now.join(", ") : now;
  const input = (e) => {
    const read = typedValue(place !== null ? { ...op, many: false } : op, what, e.target.value);
    form.set(path, place !== null ? now.map((v, i) => (i === place ? read : v)) : read, false);
    if (place !== null) now[place] = read;
  };
  const named = place === null ? field.label : place ? t("To") : t("From");
  const list = `${path}|seen`, { kind } = form.scope(path);
  const focus = (e) => seen(e.target.list, form, kind, what.name);
  const single = numeric && !(op?.many && place === null);
  return el("input", {
    class: `inp ${single ? "num" : "auto"}`, type: single ? "number" : "text", step: "any", value: shown,
    "aria-label": named,
    "data-key": `${path}|${place ?? ""}`, list: numeric ? null : list, on: { input, focus },
  });
}

/** What was really seen lately in a field, offered where it is typed. */
async function seen(list, form, kind, name) {
  const values = list && form.seen ? await form.seen(kind) : {};
  list?.replaceChildren(...(values[name] || []).map((v) => el("option", { value: v })));
}

/** A condition that compares another field now begins with what fits that field. */
export function recompare(form, path) {
  const { part, field } = compared(form, path);
  if (part.op === undefined) return;
  const fits = fitting(form.catalogue.operators, field);
  const op = fits.find((o) => o.name === part.op) || fits[0];
  part.op = op.name;
  part.value = firstValue(op, field);
}

export const choices = { choice: offered, pick: offered, name: offered, operator, value };
