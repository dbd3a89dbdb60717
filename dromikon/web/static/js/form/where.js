// The control of a selection: what is chosen, and a search over points, areas, tags, sorts, devices and exceptions.
import { el, toggle as pressed } from "./dom.js";
import { join } from "./paths.js";
import { canSend, same } from "./options.js";
import { t } from "../kit/words.js";

const SORTS = [
  ["points", (v) => v.name || v.id],
  ["areas", (v) => t("anything in {name}", { name: v.name || v.id })],
  ["tags", (tag) => t("anything tagged {tag}", { tag })],
  ["point_kinds", (kind) => t("any {kind}", { kind })],
  ["devices", (v) => t("anything of {name}", { name: v.name || v.id })],
  ["but", (v) => t("but not {name}", { name: v.name || v.id })],
];

export function where(form, field, path, value) {
  const chosen = value || {};
  const toggle = (sort, item) => {
    const held = chosen[sort] || [];
    const has = held.some((v) => same(v, item));
    const left = has ? held.filter((v) => !same(v, item)) : [...held, item];
    form.set(join(path, sort), left.length ? left : undefined);
  };
  const everywhere = (on) => form.set(join(path, "everywhere"), on || undefined);
  const look = { class: "chip", title: t("Take out") };
  const out = (sort, words) => (item) =>
    pressed(`${path}.${sort}|${item.id ?? item}`, `${words(item)} ✕`, true, () => toggle(sort, item), look);
  const marks = SORTS.flatMap(([sort, words]) => (chosen[sort] || []).map(out(sort, words)));
  if (chosen.everywhere) {
    const words = `${t("everywhere at the site")} ✕`;
    marks.unshift(pressed(`${path}.everywhere`, words, true, () => everywhere(false), look));
  }
  const found = picker(form, path, chosen, toggle, everywhere);
  return el("div", { class: "stack" }, el("div", { class: "chips", "data-chosen": path }, marks), found);
}

function picker(form, path, chosen, toggle, everywhere) {
  const list = el("ul", {});
  const held = (sort, item) => (chosen[sort] || []).some((v) => same(v, item));
  const shown = (o) => line(path, o, held, toggle, everywhere, chosen);
  const fill = () => list.replaceChildren(...offers(form, path).map(shown));
  const input = (e) => {
    form.searches.set(path, e.target.value);
    fill();
  };
  const search = el("input", {
    class: "inp", type: "search", placeholder: t("Where? Type a point, an area, a tag, a device"),
    "aria-label": t("Choose points"), "data-key": `${path}|search`, value: form.searches.get(path) || "", on: { input },
  });
  fill();
  return el("div", { class: Object.keys(chosen).length ? "picker folded" : "picker" }, search, list);
}

function line(path, offer, held, toggle, everywhere, chosen) {
  if (offer.head) return el("li", { class: "head" }, offer.head);
  const on = offer.sort === "everywhere" ? Boolean(chosen.everywhere) : held(offer.sort, offer.item);
  const press = () => (offer.sort === "everywhere" ? everywhere(!on) : toggle(offer.sort, offer.item));
  const words = [el("span", {}, offer.words), el("span", { class: "quiet" }, offer.detail || "")];
  const main = pressed(`${path}|${offer.key}`, words, on, press);
  const wide = chosen.everywhere || ["areas", "tags", "point_kinds", "devices"].some((s) => chosen[s]?.length);
  const except =
    offer.sort === "points" && wide && !held("points", offer.item) &&
    pressed(`${path}|but|${offer.key}`, t("not this"), held("but", offer.item), () => toggle("but", offer.item), {
      class: "except",
    });
  return el("li", {}, main, except);
}

const offer = (sort, { id, name }, key, words, detail) => ({ sort, item: { id, name }, key, words, detail });

const wide = (sort, item, key, words) => ({ sort, item, key, words });
const ofDevice = (d) => offer("devices", d, `device-${d.id}`, t("Anything of {name}", { name: d.name }), t("device"));

/** What can send the kind, by area; then what gathers points in other ways. */
function offers(form, path) {
  const { catalogue, kind } = form.scope(path);
  const wanted = (form.searches.get(path) || "").toLowerCase();
  const fits = (words) => words.toLowerCase().includes(wanted);
  const fitting = catalogue.points.filter((p) => canSend(catalogue, p, kind));
  const found = [];
  for (const area of [...catalogue.areas, { id: "", name: "" }]) {
    const points = fitting.filter((p) => p.area === area.name && fits(`${p.name} ${area.name}`));
    if (!points.length) continue;
    found.push({ head: area.name || t("In no area") });
    const anything = t("Anything in {area}", { area: area.name }), later = t("also what is added later");
    const whole = () => offer("areas", area, `area-${area.id}`, anything, later);
    if (area.id) found.push(whole());
    const about = (p) => (p.waits ? t("{kind}, watches {s} s", { kind: p.kind, s: p.waits }) : p.kind);
    found.push(...points.map((p) => offer("points", p, p.id, p.name, about(p))));
  }
  const kinds = [...new Set(fitting.map((p) => p.kind))];
  const wider = [
    { sort: "everywhere", item: true, key: "everywhere", words: t("Everywhere at the site") },
    ...catalogue.tags.map((tag) => wide("tags", tag, `tag-${tag}`, t("Anything tagged {tag}", { tag }))),
    ...kinds.map((kind) => wide("point_kinds", kind, `kind-${kind}`, t("Any {kind}", { kind }))),
    ...catalogue.devices.map((d) => ofDevice(d)),
  ].filter((o) => fits(o.words));
  if (wider.length) found.push({ head: t("Wider") }, ...wider);
  return found.length ? found : [{ head: t("Nothing of that name can send this.") }];
}
