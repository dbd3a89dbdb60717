// The parts of the decoder bench that are drawn: messages, their values, and what they become.
import { el, redraw, select } from "../form/dom.js";
import { relative } from "../kit/times.js";
import { t } from "../kit/words.js";
import { usedAs, usesOf } from "./uses.js";

const STATES = { read: ["good", t("read")], other: ["off", t("not its own")], failed: ["bad", t("failed")] };
const state = (outcome) => el("span", { class: `state ${STATES[outcome][0]}` }, STATES[outcome][1]);

/** Whether a place is to be drawn: what stands as it is stays, so that nobody's click goes astray. */
function differs(place, ...told) {
  const key = JSON.stringify(told);
  if (place.dataset.drawn === key) return false;
  place.dataset.drawn = key;
  return true;
}

export function drawMessages(place, messages, tried, opened, open) {
  if (!differs(place, messages.map((m) => m.id), opened, tried.map((one) => one.outcome))) return;
  const outcomes = new Map(tried.map((one) => [one.id, one]));
  const rows = messages.map((message) => {
    const found = outcomes.get(message.id), first = message.leaves.slice(0, 3).map((l) => l.value).join(" ");
    const when = el("span", { class: "figures quiet" }, relative(message.at));
    const words = [when, " ", el("span", { class: "mono" }, first || message.why)];
    const pressed = String(message.id === opened);
    const named = { "data-key": `m${message.id}`, "data-message": message.id, "aria-pressed": pressed };
    const on = { click: () => open(message.id) };
    const button = el("button", { type: "button", class: "message", ...named, on }, ...words);
    return el("li", {}, button, found && state(found.outcome));
  });
  const none = el("li", { class: "quiet" }, t("Nothing has come yet. Send something, or paste a message."));
  redraw(place, rows.length ? rows : [none]);
}

export function drawLeaves(place, message, picked, doc, acts) {
  const used = message?.leaves.map((leaf) => usedAs(doc, leaf.path));
  if (!differs(place, message?.id, picked, used, doc.kind, doc.each)) return;
  if (!message) { place.replaceChildren(); return; }
  if (message.why) { place.replaceChildren(el("p", { class: "problem" }, message.why)); return; }
  const one = (leaf) => el("div", { class: "leaf" }, ...oneLeaf(leaf, picked, doc, acts));
  redraw(place, message.leaves.map(one));
}

function oneLeaf(leaf, picked, doc, acts) {
  const used = usedAs(doc, leaf.path), open = leaf.path === picked;
  const named = { "data-key": `v${leaf.path}`, "data-leaf": leaf.path, "aria-expanded": String(open) };
  const shape = { type: "button", class: used.length ? "value used" : "value" };
  const words = [el("span", { class: "quiet mono" }, leaf.path), " ", el("strong", { class: "mono" }, leaf.value)];
  const button = el("button", { ...shape, ...named, on: { click: () => acts.pick(leaf.path) } }, ...words);
  const marks = used.map((word) => el("span", { class: "tag" }, word));
  return [button, ...marks, open && menu(leaf, doc, acts)];
}

function menu(leaf, doc, { use, catalogue }) {
  const made = usesOf(doc, catalogue, leaf.path).map(([name, words]) => el("button", {
    type: "button", class: "btn small", "data-use": name, on: { click: () => use(name, leaf) },
  }, words));
  return el("div", { class: "uses", role: "group", "aria-label": t("What it is") }, ...made);
}

export function drawBecomes(place, sum, tried, opened, acts) {
  const count = (outcome) => tried.filter((one) => one.outcome === outcome).length;
  if (tried.length) {
    sum.textContent = t("{read} read, {other} not its own, {failed} failed", {
      read: count("read"), other: count("other"), failed: count("failed"),
    });
  }
  const shown = tried.filter((one) => one.id === 0 || one.id === opened);
  if (!differs(place, shown)) return;
  const drawn = (one) => {
    const events = one.events.map((e) => event(e, acts));
    return el("div", { class: "became" }, state(one.outcome), " ", one.why, ...events);
  };
  redraw(place, shown.map(drawn));
}

function event({ kind, phase, name, said, fields, at }, acts) {
  const told = Object.entries(fields).map(([field, value]) => `${field} ${value}`).join(" · ");
  const rest = [told && ` · ${told}`, at && ` · ${at}`].filter(Boolean);
  return el("p", {}, el("strong", {}, `${kind} ${phase}`), " · ", name || chooser(said, acts), ...rest);
}

/** A name that no point has: somebody says which one it is. */
function chooser(said, { catalogue, place }) {
  const options = catalogue.points.map(({ id, name }) => [id, name]);
  const first = t("“{said}” is …", { said });
  const change = (id) => { if (id) place(said, catalogue.points.find((p) => p.id === id)); };
  return select(`p${said}`, first, [["", first], ...options], "", change, { class: "inp auto", "data-place": said });
}
