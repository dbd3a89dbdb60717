// What came of each address of a search, as rows of a table.
import { el, redraw } from "../form/dom.js";
import { addressOf } from "../kit/ask.js";
import { t, tn } from "../kit/words.js";

const WORDS = {
  asking: [t("is being asked"), "off"], found: [t("can be added"), "good"], added: [t("added"), "good"],
  here: [t("is here already"), "off"], refused: [t("refuses this user"), "bad"], silent: [t("no answer"), "off"],
  certificate: [t("its certificate is to be compared: add it by itself"), "wait"],
  not_allowed: [t("may not be called"), "wait"], failed: [t("could not be added"), "bad"],
};

/** Those that answered come first; who did not is told in few words at the end. */
const ORDER = ["found", "added", "failed", "refused", "here", "certificate", "not_allowed", "asking", "silent"];

const COUNTED = [
  ["channels", (n) => tn("{count} channel", "{count} channels", n)],
  ["inputs", (n) => tn("{count} input", "{count} inputs", n)],
  ["relays", (n) => tn("{count} relay", "{count} relays", n)],
  ["doors", (n) => tn("{count} door", "{count} doors", n)],
  ["presets", (n) => tn("{count} preset", "{count} presets", n)],
  ["detectors", (n) => tn("{count} detector", "{count} detectors", n)],
  ["events", (n) => tn("{count} kind of event", "{count} kinds of event", n)],
];

/** How much it has of what, as far as it told. */
const has = (o) =>
  COUNTED.filter(([name]) => Number(o[name]))
    .map(([name, said]) => said(Number(o[name])))
    .join(", ");

export function drawOutcomes(place, outcomes, chosen) {
  const sorted = [...outcomes].sort((a, b) => ORDER.indexOf(a.state) - ORDER.indexOf(b.state));
  redraw(place, sorted.map((o) => row(o, chosen.get(o.address))));
}

function row(o, choice) {
  const open = o.state === "found" && choice;
  const { address } = o;
  const box = open && el("input", {
    type: "checkbox", checked: choice.on, "data-choose": address, "data-key": `on ${address}`, "aria-label": o.name,
  });
  const named = { class: "inp", value: choice?.name || o.name, maxlength: 120 };
  const name = open
    ? el("input", { ...named, "data-name": address, "data-key": `name ${address}`, "aria-label": t("Name") })
    : o.device ? el("a", { href: addressOf("device", { device: o.device }) }, o.name) : o.name;
  const [words, look] = WORDS[o.state];
  const more = ["failed", "not_allowed"].includes(o.state) && el("span", { class: "quiet" }, ` ${o.said}`);
  return el("tr", { "data-address": address },
    el("td", {}, box), el("td", {}, name), el("td", {}, `${o.manufacturer} ${o.model}`.trim()),
    el("td", {}, has(o)), el("td", { class: "mono" }, o.serial), el("td", { class: "mono wrap-anywhere" }, address),
    el("td", {}, el("span", { class: `state ${look}`, title: o.said || null }, words), more));
}
