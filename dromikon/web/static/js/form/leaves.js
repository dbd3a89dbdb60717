// Controls for one value: numbers, words, times, yes or no. Each is given the form, its field, path and value.
import { el, toggle } from "./dom.js";
import { t } from "../kit/words.js";

const said = ({ label, unit }) => (label && unit ? t("{label}, in {unit}", { label, unit }) : label || unit || "");
const split = (text) => text.split(",").map((word) => word.trim());

/** What typing changes is kept at once; what depends on it is drawn when one has done typing. */
function typing(form, path, read) {
  return { input: (e) => form.set(path, read(e.target.value), false), change: () => form.redrawWhenDifferent() };
}

function input(form, field, path, value, read, more = {}) {
  const on = typing(form, path, read);
  const named = { "aria-label": said(field), title: field.hint || null, "data-key": path };
  return el("input", { class: "inp", type: "text", value, ...named, ...more, on });
}

function number(form, field, path, value) {
  const read = (text) => (text === "" && field.optional ? undefined : Number(text));
  const limits = { min: field.least, max: field.most, step: field.whole ? 1 : "any" };
  const look = { class: "inp num", type: "number", ...limits };
  const made = input(form, field, path, value ?? field.default ?? "", read, look);
  return el("span", { class: "row" }, made, field.unit && el("span", { class: "unit" }, field.unit));
}

function numbers(form, field, path, value) {
  const read = (text) => split(text).map(Number).filter((n) => !Number.isNaN(n));
  return input(form, field, path, (value ?? field.default ?? []).join(", "), read);
}

function wordlist(form, field, path, value) {
  const read = (text) => split(text.toLowerCase()).filter(Boolean);
  return input(form, field, path, (value ?? field.default ?? []).join(", "), read);
}

function words(form, field, path, value) {
  const shown = value ?? field.default ?? "";
  if (field.lines === 1) return input(form, field, path, shown, (text) => text, { maxlength: field.most });
  const named = { "aria-label": field.label, maxlength: field.most, rows: field.lines, "data-key": path };
  return el("textarea", { class: "inp", value: shown, ...named, on: typing(form, path, (text) => text) });
}

function filetext(form, field, path, value) {
  const named = { "aria-label": field.label, maxlength: field.most, rows: 12, spellcheck: "false", "data-key": path };
  const on = typing(form, path, (text) => text);
  const text = el("textarea", { class: "inp mono", value: value ?? "", ...named, on });
  const take = async (e) => form.set(path, await e.target.files[0]?.text() ?? value ?? "");
  const file = el("input", { type: "file", class: "visually-hidden", accept: field.accept, on: { change: take } });
  return el("div", {}, el("label", { class: "btn small" }, t("From a file"), file), text);
}

/** Its name is shown once it is chosen; what is kept is not fetched again. */
function file(form, field, path, value) {
  const take = ({ target }) => {
    const [chosen] = target.files, reader = new FileReader();
    reader.onload = () => form.set(path, reader.result, false);
    if (chosen) reader.readAsDataURL(chosen);
    target.nextElementSibling.textContent = chosen?.name || "";
  };
  const named = { "aria-label": field.label, accept: field.accept, "data-key": path };
  const told = value ? t("chosen") : field.optional ? "" : t("kept; choose to replace");
  const box = el("input", { type: "file", class: "visually-hidden", ...named, on: { change: take } });
  return el("label", { class: "row" }, el("span", { class: "btn small" }, t("From a file")), box, el("span", {}, told));
}

function secret(form, field, path, value) {
  const more = { type: "password", autocomplete: "new-password", placeholder: t("kept; type to replace") };
  return input(form, field, path, value || "", (text) => text, more);
}

function clock(form, field, path, value) {
  return input(form, field, path, value || "", (text) => text, { class: "inp auto", type: "time" });
}

function day(form, field, path, value) {
  const read = (text) => text || (field.optional ? undefined : "");
  return input(form, field, path, value || "", read, { class: "inp auto", type: "date" });
}

function held(form, field, path, value) {
  const shown = value ?? field.default, lasts = shown === "state";
  const option = (key, words, wanted, on) => toggle(`${path}|${key}`, words, on, () => form.set(path, wanted));
  const ways = [option("for", t("for"), 30, !lasts), option("while it lasts", t("while it lasts"), "state", lasts)];
  const seconds = { ...field, unit: "s", least: 0.1, most: 86400 };
  return el(
    "span",
    { class: "row wrap" },
    el("span", { class: "choice", role: "group", "aria-label": field.label }, ways),
    !lasts && number(form, seconds, path, shown),
  );
}

function flag(form, field, path, value) {
  const on = value ?? field.default ?? false;
  if (field.words) {
    const option = (text, wanted) => toggle(`${path}|${wanted}`, text, on === wanted, () => form.set(path, wanted));
    const both = [option(field.words[0], true), option(field.words[1], false)];
    return el("span", { class: "choice", role: "group", "aria-label": field.label }, both);
  }
  const change = (e) => form.set(path, e.target.checked);
  const box = el("input", { type: "checkbox", checked: on, "data-key": path, on: { change } });
  return el("label", { class: "row", title: field.hint }, box, field.label);
}

const NAMED = ["number", "choice", "text"];

/** What a text may name, in braces. */
export function placesHint(form, path) {
  const own = form.scope(path).fields.filter((f) => NAMED.includes(f.type)).map((f) => f.name);
  const names = ["point", "area", "time", ...own].slice(0, 6);
  return t("may use {places}", { places: names.map((n) => `{${n}}`).join(" ") });
}

export const leaves = { number, numbers, wordlist, words, filetext, file, secret, clock, day, held, flag };
