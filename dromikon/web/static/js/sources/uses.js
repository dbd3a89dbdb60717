// What a value of a message can be for a decoder, and how the decoder's document changes when it is that.
import { t } from "../kit/words.js";

/** The last name of a place: what a field of its own is called. */
const lastName = (path) => (/([A-Za-z_][\w-]*)(?:\[\d+\])?$/.exec(path.replace(/["\]]+$/, "")) || [, "value"])[1];
/** The list that a place is in, as the place of each of its parts; null when it is in none. */
const listOf = (path) => (/^(.*?)\[\d+\]/.test(path) ? path.replace(/^(.*?)\[\d+\].*$/, "$1[*]") : null);

/** A place as the decoder writes it: below the part that is an event of its own, or else in the whole message. */
export function placeOf(doc, path) {
  if (!doc.each) return path;
  const within = doc.each.replace("[*]", "");
  const part = path.startsWith(`${within}[`) && path.slice(within.length).replace(/^\[\d+\]/, "");
  return part === false ? `^${path.slice(1)}` : `$${part}`;
}

const plain = (value) => { const found = JSON.parse(value); return found === null ? "" : String(found); };

/** [name, words] of each, for a value and the kind that is chosen. */
export function usesOf(doc, catalogue, path) {
  const kind = catalogue.kinds.find((k) => k.name === doc.kind);
  const fields = (kind?.fields || []).filter((f) => f.type !== "time");
  const state = kind?.phases.includes("begin");
  const list = listOf(path), each = list && list !== doc.each;
  return [
    ...(each ? [["each", t("One event for each of {list}", { list })]] : []),
    ["when", t("It is this decoder's where it says so")],
    ["point", t("It names the point")],
    ...(state ? [["begins", t("It begins where it says so")], ["ends", t("It ends where it says so")]] : []),
    ...fields.map((f) => [`field:${f.name}`, t("It is the field “{field}”", { field: f.label })]),
    ["own", t("It is a field of its own")],
    ["time", t("It is the time")],
  ];
}

export function use(as, leaf, doc) {
  const path = placeOf(doc, leaf.path), value = plain(leaf.value);
  const [verb, name] = as.split(":");
  const put = (field) => {
    doc.fields = [...(doc.fields || []).filter((f) => f.name !== field), { name: field, path, meanings: [] }];
  };
  const written = /^\d{12,}$/.test(value) ? "milliseconds" : /^\d{9,11}(\.\d+)?$/.test(value) ? "seconds" : "iso";
  const does = {
    each: () => { doc.each = listOf(leaf.path); },
    when: () => { doc.when = [...(doc.when || []).filter((c) => c.path !== path), { path, how: "is", value }]; },
    point: () => { doc.point_path = path; },
    begins: () => { phase(doc, path); doc.begins = [...new Set([...(doc.begins || []), value])]; },
    ends: () => { phase(doc, path); doc.ends = [...new Set([...(doc.ends || []), value])]; },
    field: () => put(name),
    own: () => put(lastName(path)),
    time: () => Object.assign(doc, { time_path: path, time_as: written }),
  };
  does[verb]();
}

function phase(doc, path) {
  if (doc.phase_path === path) return;
  Object.assign(doc, { phase_path: path, begins: [], ends: [] });
}

/** What a place already is in a decoder, in a word. */
export function usedAs(doc, whole) {
  const path = placeOf(doc, whole);
  const fields = (doc.fields || []).filter((f) => f.path === path).map((f) => f.name);
  return [
    ...((doc.when || []).some((c) => c.path === path) ? [t("its own")] : []),
    ...(doc.point_path === path ? [t("point")] : []),
    ...(doc.phase_path === path ? [t("begins, ends")] : []),
    ...(doc.time_path === path ? [t("time")] : []),
    ...fields,
  ];
}
