// What the parts of a rule say while they are closed: their words, and what the checks find in them.
import { button, el } from "../form/dom.js";
import { parentOf } from "../form/paths.js";
import { t } from "../kit/words.js";

/** What a part that says nothing means. */
const NOTHING = {
  cause: t("What starts it?"), provided: t("Every time it happens"), hours: t("At any hour"),
  hold_off: t("Repeats count each for itself"), stop: t("It runs to its end"),
};

function worded(path, { words, doc, forms }) {
  if (words[path]) return words[path];
  if (path === "mutable") return doc.mutable ? t("people may mute it") : t("nobody may mute it");
  if (NOTHING[path] && !doc[path]) return NOTHING[path];
  const field = forms.parts[forms.root].fields.find((f) => f.name === path), value = doc[path];
  if (field?.widget === "choice") return field.words[value ?? field.default];
  const all = [value].flat().filter(Boolean);
  return all.some((v) => typeof v === "object") ? t("not complete yet") : all.join(", ") || t("none");
}

/** Puts words and findings in their places. `told` has words, findings, problems, doc, forms; `mended` takes a mend. */
export function dress(root, told, mended) {
  for (const place of root.querySelectorAll("[data-words]")) {
    const path = place.dataset.words, said = worded(path, told);
    place.textContent = said;
    place.title = said;
    place.classList.toggle("quiet", !told.words[path]);
    place.closest(".step")?.classList.toggle("told", Boolean(told.words[path]));
  }
  const places = new Map([...root.querySelectorAll("[data-findings]")].map((p) => [p.dataset.findings, p]));
  for (const place of places.values()) place.replaceChildren();
  const homeless = [];
  for (const finding of told.findings) {
    const place = nearest(places, finding.path);
    if (place) place.append(line(finding, mended));
    else homeless.push(finding);
  }
  for (const part of root.querySelectorAll("[data-part]")) {
    const own = told.problems.some((p) => `${p.path}.`.startsWith(`${part.dataset.part}.`));
    part.classList.toggle("wrong", own);
  }
  return homeless;
}

/** What a part is called, by the path of something in it. */
export function labelOf(path, { doc, forms }) {
  const [name, i] = path.split("."), step = name === "response" && doc.response?.[i];
  const part = step && forms.nodes.step.kinds.find((k) => k.name === step.do);
  return part?.label || forms.parts[forms.root].fields.find((f) => f.name === name)?.label || name;
}

/** The place of a path, or of the nearest part around it. */
export function nearest(places, path) {
  for (let here = path; here; here = parentOf(here)) if (places.has(here)) return places.get(here);
  return null;
}

function line(finding, { mend, canTry, tryCall }) {
  const { reason, hint } = finding, small = { class: "btn small" };
  return el("p", { class: `finding ${finding.severity}` },
    el("span", { class: "grow" }, reason, " ", el("span", { class: "quiet" }, hint)),
    finding.mend && button(`${finding.path}|mend`, finding.mend.label, () => mend(finding), small),
    canTry(finding) && button(`${finding.path}|try`, t("Send a test"), () => tryCall(finding), small));
}
