// What a control offers at this site: [{value, words, detail}]. A value that is not offered any more stays to be seen.
import { t } from "../kit/words.js";

const option = (value, words, detail = "") => ({ value, words, detail });
const named = (things) => things.map(({ id, name }) => option({ id, name }, name));
const plain = (names) => names.map((n) => ({ value: n, words: n, detail: "" }));

export const kindOf = (catalogue, name) => catalogue.kinds.find((k) => k.name === name);

/** Whether a point can send a kind. What it is known to send says more than its sort. */
export function canSend(catalogue, point, name) {
  const kind = kindOf(catalogue, name);
  if (!kind) return true;
  if (point.sends) return point.sends.includes(name);
  return !kind.point_kinds.length || kind.point_kinds.includes(point.kind);
}

export function fieldsOf(catalogue, kind, only = "") {
  const fields = kindOf(catalogue, kind)?.fields || [];
  return only ? fields.filter((f) => only.split(",").includes(f.type)) : fields;
}

const PHASES = {
  begin: t("when it begins"), end: t("when it ends"), pulse: t("when it happens"), reading: t("at each reading"),
};

/** What the points know of a sort: the one that is named, or else all of them. */
function known({ points }, target, sort) {
  const meant = target?.point ? points.filter((p) => p.id === target.point.id) : points;
  return [...new Set(meant.flatMap((p) => p[sort]))].sort();
}

const names = {
  /** What this site's points can send stands first; the rest is known, but nothing here sends it. */
  kind: ({ catalogue }, { only }) => {
    const fits = (k) => !only || k.phases.includes(only === "states" ? "begin" : "reading");
    const sent = (k) => catalogue.points.some((p) => canSend(catalogue, p, k.name));
    const group = (k) => (sent(k) ? t("sent here") : t("sent by nothing here"));
    const all = catalogue.kinds.filter(fits).map((k) => ({ value: k.name, words: k.label, group: group(k) }));
    return all.sort((a, b) => (b.group === t("sent here")) - (a.group === t("sent here")));
  },
  phase: ({ catalogue }, _, part) =>
    (kindOf(catalogue, part.kind)?.phases || []).map((p) => ({ value: p, words: PHASES[p], detail: "" })),
  field: ({ catalogue, kind }, { only }, part) =>
    fieldsOf(catalogue, part?.kind || kind, only).map((f) => ({ value: f.name, words: f.label, detail: f.unit })),
  preset: ({ catalogue }, _, part) => plain(known(catalogue, part.camera, "presets")),
  signal: ({ catalogue }, _, part) => plain(known(catalogue, part.target, "signals")),
  mode: ({ catalogue }) => plain(catalogue.modes),
  point_kind: ({ catalogue }) => plain(catalogue.point_kinds),
  tag: ({ catalogue }) => plain(catalogue.tags),
  zone: ({ catalogue }) => plain(catalogue.zones),
  language: ({ catalogue }) => plain(catalogue.languages),
};

const picks = {
  point: ({ catalogue, kinds }) => named(catalogue.points.filter((p) => !kinds.length || kinds.includes(p.kind))),
  area: ({ catalogue }) => named(catalogue.areas),
  device: ({ catalogue }) => named(catalogue.devices),
  group: ({ catalogue }) => named(catalogue.groups),
  hours: ({ catalogue }) => named(catalogue.hours),
  list: ({ catalogue }) => named(catalogue.lists),
  counter: ({ catalogue }) => named(catalogue.counters),
  intake: ({ catalogue }) => named(catalogue.intakes),
  recorder: ({ catalogue }) => named(catalogue.recorders),
  destination: ({ catalogue, kinds }) => named(catalogue.destinations.filter((d) => kinds.includes(d.kind))),
  /** Whoever has no such way of being reached is said to. */
  person: ({ catalogue, forms }, _, part) => {
    const way = forms.nodes.step?.kinds.find((k) => k.name === part?.do)?.way;
    const lacks = ({ ways }) => way && ways && !ways.includes(way);
    const words = (p) => (lacks(p) ? t("{name}: not reached so", { name: p.name }) : p.name);
    return catalogue.persons.map((p) => option({ id: p.id, name: p.name }, words(p)));
  },
  sound: ({ catalogue }) => named(catalogue.sounds),
  display: ({ catalogue }) => named(catalogue.displays),
  site: ({ catalogue }) => named(catalogue.sites),
  customer: ({ catalogue }) => named(catalogue.customers),
};

export const same = (a, b) => (a?.id !== undefined ? a.id === b?.id : a === b);

/** What a field offers. `scope` has the catalogue, the kind spoken of and the sorts of point wanted around it. */
export function optionsOf(scope, field, part) {
  if (field.widget === "choice") return field.choices.map((c) => option(c, field.words[c] || String(c)));
  const own = field.kinds?.length ? { ...scope, kinds: field.kinds } : scope;
  const offered = (field.widget === "pick" ? picks : names)[field.of](own, field, part);
  const chosen = part?.[field.name];
  const held = (field.many ? chosen : [chosen]) || [];
  const stands = (v) => v !== undefined && v !== null && v !== "" && v.id !== "none";
  const gone = held.filter((v) => stands(v) && !offered.some((o) => same(o.value, v)));
  return [...offered, ...gone.map((v) => ({ value: v, words: v.name || v.id || v, detail: t("not offered here") }))];
}
