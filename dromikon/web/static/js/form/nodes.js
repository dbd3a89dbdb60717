// One or several of a registry: a cause, a tree of conditions, the steps of a response.
import { button, el, select, toggle } from "./dom.js";
import { join } from "./paths.js";
import { partOf } from "./scope.js";
import { draws, fieldsOfPart, part, problem } from "./parts.js";
import { findingsOf, opener } from "./sections.js";
import { shape, symbol } from "../kit/svg.js";
import { t } from "../kit/words.js";

const nothingYet = () =>
  t("What starts it? An event, a state that lasts, several events, a level, a time, or a button.");
const GROUPS = ["all", "any", "not"];

draws("nodes", nodes);

function nodes(form, field, path, value) {
  form.remember(path, field);
  if (field.of === "step") return steps(form, field, path, value || []);
  if (field.of === "cause" && field.many) return causes(form, field, path, value || []);
  if (field.of === "cause") return cause(form, field, path, value);
  return field.many ? conditions(form, field, path, value || []) : tree(form, field, path, value);
}

// -- causes --------------------------------------------------------------------------------------------------------

function cause(form, field, path, value, out = null) {
  const { tag, kinds } = form.forms.nodes.cause;
  const become = (k) => () => form.become(path, "cause", k.name);
  const chip = (k) => toggle(`${path}|${k.name}`, k.label, value?.[tag] === k.name, become(k), { class: "chip" });
  const sorts = el("div", { class: "chips", role: "group", "aria-label": t("Kind of cause") }, kinds.map(chip));
  const asked = () => el("p", { class: "quiet" }, nothingYet());
  const inside = value ? part(form, partOf(form.forms, field, value), path, value) : asked();
  return el("div", { class: "stack" }, el("div", { class: "row wrap" }, sorts, out), inside);
}

function causes(form, field, path, value) {
  const one = (item, i) => {
    const out = value.length > (field.least || 0) && bin(form, join(path, i), t("this cause"));
    return el("div", { class: "step" }, cause(form, { ...field, many: false }, join(path, i), item, out));
  };
  const first = form.forms.nodes.cause.kinds[0].name;
  const more = () => form.set(path, [...value, form.blankNode("cause", first, path)]);
  const add = value.length < field.most && button(`${path}|more`, `+ ${t("Cause")}`, more, { class: "btn small" });
  return el("div", {}, value.map(one), add);
}

// -- conditions ----------------------------------------------------------------------------------------------------

/** The tree under "provided": empty, a leaf, or a group. Adding to a leaf makes a group of both. */
function tree(form, field, path, value) {
  if (!value) return addCondition(form, path, (made) => form.set(path, made));
  const both = (made) => form.set(path, { test: "all", of: [value, made] });
  const add = !GROUPS.includes(value.test) && addCondition(form, path, both);
  return el("div", {}, condition(form, path, value, field.optional), add);
}

function condition(form, path, value, removable = true) {
  const name = partOf(form.forms, { widget: "nodes", of: "condition" }, value);
  const kinds = form.forms.nodes.condition.kinds.map((k) => [k.name, k.label]);
  const become = (to) => form.become(path, "condition", to);
  const sort = select(`${path}|test`, t("Kind of condition"), kinds, value.test, become);
  const out = removable && bin(form, path, t("this condition"));
  const fields = fieldsOfPart(form, name, path, value);
  const named = { "data-node": path };
  if (!GROUPS.includes(value.test)) {
    return el("div", { class: "condition", ...named }, sort, fields, out, problem(path));
  }
  const head = el("div", { class: "condition" }, sort, el("span", { class: "grow" }), out);
  return el("div", { class: "group", ...named }, head, fields, problem(path));
}

function conditions(form, field, path, value) {
  const add = value.length < field.most && addCondition(form, path, (made) => form.set(path, [...value, made]));
  const spare = value.length > (field.least || 0);
  return el("div", {}, value.map((c, i) => condition(form, join(path, i), c, spare)), add);
}

function addCondition(form, path, put) {
  const first = form.scope(path).fields.length ? "field" : form.catalogue.modes.length ? "mode" : "since";
  const click = () => put(form.blankNode("condition", first, path));
  return button(`${path}|more`, `+ ${t("Condition")}`, click, { class: "btn small" });
}

// -- steps ---------------------------------------------------------------------------------------------------------

/** The plan's head, a row for each step, and what else could be done. */
function steps(form, field, path, value) {
  const rows = value.map((s, i) => step(form, field, join(path, i), s, i, value.length));
  return el("div", { class: "steps" }, form.planHead?.(), rows, more(form, path, value), findingsOf(path));
}

function more(form, path, value) {
  const add = (name) => () => {
    form.opened = join(path, value.length);
    form.set(path, [...value, form.blankNode("step", name, path)]);
  };
  const groups = Map.groupBy(form.forms.nodes.step.kinds, (k) => k.group);
  const offered = [...groups].map(([group, kinds]) =>
    el("div", { class: "row wrap" }, el("span", { class: "quiet step-group" }, group), kinds.map((k) =>
      button(`${path}|add|${k.name}`, k.label, add(k.name), { class: "chip" }))));
  const name = el("summary", { class: "btn small", "data-key": `${path}|adds` }, `+ ${t("Step")}`);
  return el("details", { class: "more-steps", open: !value.length }, name, el("div", { class: "stack" }, offered));
}

function step(form, field, path, value, i, count) {
  const name = partOf(form.forms, field, value);
  const known = form.forms.nodes.step.kinds.find((k) => k.name === value.do);
  const label = form.forms.parts[name]?.label || value.do;
  const timing = fieldsOfPart(form, name, path, value, (f) => !f.timing);
  const keys = (e) => {
    if (!e.altKey || !["ArrowUp", "ArrowDown"].includes(e.key)) return;
    e.preventDefault();
    form.shift(path, e.key === "ArrowUp" ? -1 : 1);
  };
  const shift = (by, words, sign) =>
    button(`${path}|${by}`, sign, () => form.shift(path, by), {
      class: "btn small icon-only plain", "aria-label": `${words}: ${label}`,
      title: t("{words} (Alt {sign})", { words, sign }),
      disabled: i + by < 0 || i + by >= count,
    });
  const moves = [shift(-1, t("Earlier"), "↑"), shift(1, t("Later"), "↓"), bin(form, path, label)];
  const track = shape("svg", { class: "track", "data-track": path, role: "group", "aria-label": label });
  return el(
    "div",
    {
      class: "step", id: `part-${path.replaceAll(".", "-")}`, "data-part": path, "data-step": value.do,
      on: { keydown: keys },
    },
    el("div", { class: "plan-row" }, opener(form, path, el("strong", {}, label), symbol(known?.icon)), track),
    findingsOf(path),
    el("div", { class: "part-body" },
      el("header", {}, el("span", { class: "row wrap grow" }, timing), moves),
      el("div", { class: "part-fields" }, fieldsOfPart(form, name, path, value, (f) => f.timing))),
    problem(path),
  );
}

function bin(form, path, what) {
  const words = { "aria-label": t("Take {part} out", { part: what }), title: t("Take out") };
  const more = { class: "btn small icon-only plain", ...words };
  return button(`${path}|out`, "✕", () => form.takeOut(path, what), more);
}
