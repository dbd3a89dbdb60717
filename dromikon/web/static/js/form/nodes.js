// One or several of a registry: a cause, a tree of conditions, the steps of a response.
import { el } from "./dom.js";
import { join } from "./paths.js";
import { partOf } from "./scope.js";
import { fieldsOfPart, part, problem } from "./parts.js";

const GROUPS = ["all", "any", "not"];

export function nodes(form, field, path, value) {
  form.remember(path, field);
  if (field.of === "step") return steps(form, field, path, value || []);
  if (field.of === "cause") return field.many ? causes(form, field, path, value || []) : cause(form, field, path, value);
  return field.many ? conditions(form, field, path, value || []) : tree(form, field, path, value);
}

// -- causes ----------------------------------------------------------------------------------------------------------

function cause(form, field, path, value, out = null) {
  const { tag, kinds } = form.forms.nodes.cause;
  const button = (k) =>
    el("button", { class: "chip", type: "button", "aria-pressed": String(value?.[tag] === k.name), "data-key": `${path}|${k.name}`, on: { click: () => form.become(path, "cause", k.name) } }, k.label);
  return el(
    "div",
    { class: "stack" },
    el("div", { class: "row wrap" }, el("div", { class: "chips", role: "group", "aria-label": "Kind of cause" }, kinds.map(button)), out),
    value ? part(form, partOf(form.forms, field, value), path, value) : el("p", { class: "quiet" }, "What starts it? An event, a state that lasts, several events, a level, a time, or a button on the desk."),
  );
}

function causes(form, field, path, value) {
  const one = (item, i) => {
    const out = value.length > (field.least || 0) && bin(form, join(path, i), "this cause");
    return el("div", { class: "step" }, cause(form, { ...field, many: false }, join(path, i), item, out));
  };
  return el("div", {}, value.map(one), value.length < field.most && more(form, path, "cause", form.forms.nodes.cause.kinds[0].name, "+ Cause", value));
}

// -- conditions ------------------------------------------------------------------------------------------------------

/** The tree under "provided": empty, a leaf, or a group. Adding to a leaf makes a group of both. */
function tree(form, field, path, value) {
  if (!value) return addCondition(form, path, (made) => form.set(path, made));
  const add = GROUPS.includes(value.test) ? null : addCondition(form, path, (made) => form.set(path, { test: "all", of: [value, made] }));
  return el("div", {}, condition(form, path, value, field.optional), add);
}

function condition(form, path, value, removable = true) {
  const name = partOf(form.forms, { widget: "nodes", of: "condition" }, value);
  const kinds = form.forms.nodes.condition.kinds.map((k) => el("option", { value: k.name, selected: k.name === value.test }, k.label));
  const sort = el("select", { class: "inp auto", "aria-label": "Kind of condition", "data-key": `${path}|test`, on: { change: (e) => form.become(path, "condition", e.target.value) } }, kinds);
  const out = removable && bin(form, path, "this condition");
  const fields = fieldsOfPart(form, name, path, value);
  if (GROUPS.includes(value.test)) return el("div", { class: "group", "data-node": path }, el("div", { class: "condition" }, sort, el("span", { class: "grow" }), out), fields, problem(path));
  return el("div", { class: "condition", "data-node": path }, sort, fields, out, problem(path));
}

function conditions(form, field, path, value) {
  const add = value.length < field.most && addCondition(form, path, (made) => form.set(path, [...value, made]));
  return el("div", {}, value.map((c, i) => condition(form, join(path, i), c, value.length > (field.least || 0))), add);
}

function addCondition(form, path, put) {
  const first = form.scope(path).fields.length ? "field" : form.catalogue.modes.length ? "mode" : "since";
  const click = () => put(form.blankNode("condition", first, path));
  return el("button", { class: "btn small", type: "button", "data-key": `${path}|more`, on: { click } }, "+ Condition");
}

// -- steps -----------------------------------------------------------------------------------------------------------

function steps(form, field, path, value) {
  const add = form.forms.nodes.step.kinds.map((k) =>
    el("button", { class: "btn small", type: "button", "data-key": `${path}|add|${k.name}`, on: { click: () => form.set(path, [...value, form.blankNode("step", k.name, path)]) } }, `+ ${k.label}`),
  );
  return el("div", {}, value.map((s, i) => step(form, field, join(path, i), s, i, value.length)), el("div", { class: "chips" }, add));
}

function step(form, field, path, value, i, count) {
  const name = partOf(form.forms, field, value);
  const label = form.forms.parts[name]?.label || value.do;
  const timing = fieldsOfPart(form, name, path, value, (f) => !f.timing);
  const keys = (e) => {
    if (!e.altKey || !["ArrowUp", "ArrowDown"].includes(e.key)) return;
    e.preventDefault();
    form.shift(path, e.key === "ArrowUp" ? -1 : 1);
  };
  const shift = (by, words, sign) =>
    el("button", { class: "btn small icon-only plain", type: "button", "aria-label": `${words}: ${label}`, title: `${words} (Alt ${sign})`, disabled: i + by < 0 || i + by >= count, "data-key": `${path}|${by}`, on: { click: () => form.shift(path, by) } }, sign);
  return el(
    "div",
    { class: "step", id: `part-${path.replaceAll(".", "-")}`, "data-step": value.do, on: { keydown: keys } },
    el("header", {}, el("strong", { class: "grow" }, label), timing, shift(-1, "Earlier", "↑"), shift(1, "Later", "↓"), bin(form, path, label)),
    el("div", { class: "part-fields" }, fieldsOfPart(form, name, path, value, (f) => f.timing)),
    problem(path),
  );
}

function bin(form, path, what) {
  return el("button", { class: "btn small icon-only plain", type: "button", "aria-label": `Take ${what} out`, title: "Take out", "data-key": `${path}|out`, on: { click: () => form.takeOut(path, what) } }, "✕");
}

function more(form, path, of, name, words, value) {
  const click = () => form.set(path, [...value, form.blankNode(of, name, path)]);
  return el("button", { class: "btn small", type: "button", "data-key": `${path}|more`, on: { click } }, words);
}
