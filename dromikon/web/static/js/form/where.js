// The control of a selection: what is chosen, and a search over points, areas, tags, sorts, devices and exceptions.
import { el } from "./dom.js";
import { join } from "./paths.js";
import { canSend, same } from "./options.js";

const SORTS = [
  ["points", (v) => v.name || v.id],
  ["areas", (v) => `anything in ${v.name || v.id}`],
  ["tags", (v) => `anything tagged ${v}`],
  ["point_kinds", (v) => `any ${v}`],
  ["devices", (v) => `anything of ${v.name || v.id}`],
  ["but", (v) => `but not ${v.name || v.id}`],
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
  const out = (sort, words) => (item) =>
    el("button", { class: "chip", type: "button", "aria-pressed": "true", title: "Take out", "data-key": `${path}.${sort}|${item.id ?? item}`, on: { click: () => toggle(sort, item) } }, `${words(item)} ✕`);
  const marks = SORTS.flatMap(([sort, words]) => (chosen[sort] || []).map(out(sort, words)));
  if (chosen.everywhere) marks.unshift(el("button", { class: "chip", type: "button", "aria-pressed": "true", "data-key": `${path}.everywhere`, on: { click: () => everywhere(false) } }, "everywhere at the site ✕"));
  return el("div", { class: "stack" }, el("div", { class: "chips", "data-chosen": path }, marks), picker(form, path, chosen, toggle, everywhere));
}

function picker(form, path, chosen, toggle, everywhere) {
  const list = el("ul", {});
  const held = (sort, item) => (chosen[sort] || []).some((v) => same(v, item));
  const fill = () => list.replaceChildren(...offers(form, path).map((o) => line(form, path, o, held, toggle, everywhere, chosen)));
  const search = el("input", {
    class: "inp", type: "search", placeholder: "Where? Type a point, an area, a tag, a device", "aria-label": "Choose points", "data-key": `${path}|search`,
    value: form.searches.get(path) || "", on: { input: (e) => { form.searches.set(path, e.target.value); fill(); } },
  });
  fill();
  return el("div", { class: Object.keys(chosen).length ? "picker folded" : "picker" }, search, list);
}

function line(form, path, offer, held, toggle, everywhere, chosen) {
  if (offer.head) return el("li", { class: "head" }, offer.head);
  const on = offer.sort === "everywhere" ? Boolean(chosen.everywhere) : held(offer.sort, offer.item);
  const press = () => (offer.sort === "everywhere" ? everywhere(!on) : toggle(offer.sort, offer.item));
  const main = el("button", { type: "button", "aria-pressed": String(on), "data-key": `${path}|${offer.key}`, on: { click: press } }, el("span", {}, offer.words), el("span", { class: "quiet" }, offer.detail || ""));
  const wide = chosen.everywhere || ["areas", "tags", "point_kinds", "devices"].some((s) => chosen[s]?.length);
  const except = offer.sort === "points" && wide && !held("points", offer.item) &&
    el("button", { class: "except", type: "button", "aria-pressed": String(held("but", offer.item)), "data-key": `${path}|but|${offer.key}`, on: { click: () => toggle("but", offer.item) } }, "not this");
  return el("li", {}, main, except);
}

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
    found.push({ head: area.name || "In no area" });
    if (area.id) found.push({ sort: "areas", item: { id: area.id, name: area.name }, key: `area-${area.id}`, words: `Anything in ${area.name}`, detail: "also what is added later" });
    for (const p of points) found.push({ sort: "points", item: { id: p.id, name: p.name }, key: p.id, words: p.name, detail: p.waits ? `${p.kind}, watches ${p.waits} s` : p.kind });
  }
  const wider = [
    { sort: "everywhere", item: true, key: "everywhere", words: "Everywhere at the site" },
    ...catalogue.tags.map((t) => ({ sort: "tags", item: t, key: `tag-${t}`, words: `Anything tagged ${t}` })),
    ...[...new Set(fitting.map((p) => p.kind))].map((k) => ({ sort: "point_kinds", item: k, key: `kind-${k}`, words: `Any ${k}` })),
    ...catalogue.devices.map((d) => ({ sort: "devices", item: { id: d.id, name: d.name }, key: `device-${d.id}`, words: `Anything of ${d.name}`, detail: "device" })),
  ].filter((o) => fits(o.words));
  if (wider.length) found.push({ head: "Wider" }, ...wider);
  return found.length ? found : [{ head: "Nothing of that name can send this." }];
}
