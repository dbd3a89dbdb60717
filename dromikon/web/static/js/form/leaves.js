// Controls for one value: numbers, words, times, yes or no. Each is given the form, its field, path and value.
import { el } from "./dom.js";

const said = (field) => [field.label, field.unit].filter(Boolean).join(", in ");

/** What typing changes is kept at once; what depends on it is drawn when one has done typing. */
function typing(form, path, read) {
  return { input: (e) => form.set(path, read(e.target.value), false), change: () => form.redrawWhenDifferent() };
}

function number(form, field, path, value) {
  const shown = value ?? field.default ?? "";
  const read = (text) => (text === "" && field.optional ? undefined : Number(text));
  return el(
    "span",
    { class: "row" },
    el("input", {
      class: "inp num", type: "number", min: field.least, max: field.most, step: field.whole ? 1 : "any", value: shown,
      "aria-label": said(field), "data-key": path, title: field.hint, on: typing(form, path, read),
    }),
    field.unit && el("span", { class: "unit" }, field.unit),
  );
}

function numbers(form, field, path, value) {
  const read = (text) => text.split(",").map((t) => Number(t.trim())).filter((n) => !Number.isNaN(n));
  const shown = (value ?? field.default ?? []).join(", ");
  return el("input", { class: "inp", type: "text", value: shown, "aria-label": said(field), "data-key": path, on: typing(form, path, read) });
}

function wordlist(form, field, path, value) {
  const read = (text) => text.split(",").map((t) => t.trim().toLowerCase()).filter(Boolean);
  const shown = (value ?? field.default ?? []).join(", ");
  return el("input", { class: "inp", type: "text", value: shown, "aria-label": field.label, "data-key": path, on: typing(form, path, read) });
}

function words(form, field, path, value) {
  const attributes = { class: "inp", value: value ?? field.default ?? "", maxlength: field.most, "aria-label": field.label, "data-key": path, on: typing(form, path, (t) => t) };
  return field.lines > 1 ? el("textarea", { ...attributes, rows: field.lines }) : el("input", { ...attributes, type: "text" });
}

function clock(form, field, path, value) {
  return el("input", { class: "inp auto", type: "time", value: value || "", "aria-label": field.label, "data-key": path, on: typing(form, path, (t) => t) });
}

function held(form, field, path, value) {
  const shown = value ?? field.default;
  const button = (words, wanted, on) =>
    el("button", { type: "button", "aria-pressed": String(on), "data-key": `${path}|${words}`, on: { click: () => form.set(path, wanted) } }, words);
  const lasts = shown === "state";
  const seconds = number(form, { ...field, unit: "s", least: 0.1, most: 86400 }, path, lasts ? 30 : shown);
  return el(
    "span",
    { class: "row wrap" },
    el("span", { class: "choice", role: "group", "aria-label": field.label }, button("for", 30, !lasts), button("while it lasts", "state", lasts)),
    !lasts && seconds,
  );
}

function flag(form, field, path, value) {
  const on = value ?? field.default ?? false;
  if (field.words) {
    const option = (words, wanted) =>
      el("button", { type: "button", "aria-pressed": String(on === wanted), "data-key": `${path}|${wanted}`, on: { click: () => form.set(path, wanted) } }, words);
    return el("span", { class: "choice", role: "group", "aria-label": field.label }, option(field.words[0], true), option(field.words[1], false));
  }
  const box = el("input", { type: "checkbox", checked: on, "data-key": path, on: { change: (e) => form.set(path, e.target.checked) } });
  return el("label", { class: "row", title: field.hint }, box, field.label);
}

/** What a text may name, in braces. */
export function placesHint(form, path) {
  const names = ["point", "area", "time", ...form.scope(path).fields.filter((f) => ["number", "choice", "text"].includes(f.type)).map((f) => f.name)];
  return `may use ${names.slice(0, 6).map((n) => `{${n}}`).join(" ")}`;
}

export const leaves = { number, numbers, wordlist, words, clock, held, flag };
