// The editor of a rule's parts: draws whatever the description names, and changes the document.
import { blankField, blankNode, keepable, settle } from "./blank.js";
import { recompare } from "./choices.js";
import { redraw } from "./dom.js";
import { fieldsOf } from "./options.js";
import "./nodes.js";
import { section } from "./sections.js";
import { at, copy, join, move, parentOf, put, stepsOf } from "./paths.js";
import { counts, fieldOf, kindSpokenOf, partOf, partsAlong } from "./scope.js";

export class Form {
  /** `changed` hears of every change of the document; `takenOut` of what can be put back. */
  constructor(root, { forms, catalogue, doc, changed, takenOut }) {
    Object.assign(this, { root, forms, catalogue, doc, changed, takenOut });
    this.searches = new Map();
    this.defaults = new Map();
    this.problems = [];
    /** The part that is open to be changed, by its path; the others say in words what they are. */
    this.opened = "";
    this.afterwards = this.openedChanged = () => {};
    this.pressed = false;
    for (const [event, down] of [["pointerdown", true], ["pointerup", false]]) {
      root.ownerDocument.addEventListener(event, () => { this.pressed = down; }, true);
    }
  }

  // -- what is drawn -----------------------------------------------------------------------------------------------

  show(doc) {
    this.doc = doc;
    this.redraw();
  }

  /** Other fields may count now. Whoever typed and then pressed a button is leaving for it: it stays until let go. */
  redrawWhenDifferent() {
    if (this.shape() === this.drawn) return;
    if (this.pressed) this.root.ownerDocument.addEventListener("click", () => this.redraw(), { once: true });
    else this.redraw();
  }

  /** Which fields count, as text. */
  shape() {
    const inside = (field, value) => {
      const inner = partOf(this.forms, field, value);
      return inner ? walk(inner, value) : 0;
    };
    const walk = (part, value) =>
      this.forms.parts[part].fields
        .filter((f) => counts(this.forms.parts[part], f, value))
        .map((f) => [f.name, [value?.[f.name] ?? []].flat().map((v) => inside(f, v))]);
    return JSON.stringify(walk(this.forms.root, this.doc));
  }

  redraw() {
    this.drawn = this.shape();
    const fields = this.forms.parts[this.forms.root].fields.filter((f) => f.name !== "name");
    // First what the rule does, then the words it is filed under.
    const files = (f) => ["words", "wordlist"].includes(f.widget);
    const sections = [...fields.filter((f) => !files(f)), ...fields.filter(files)];
    redraw(this.root, sections.map((f) => section(this, f)));
    this.showOpened();
    this.mark(this.problems);
    this.afterwards();
  }

  /** Unfold the part at a path, or fold all with an empty one. */
  unfold(path) {
    this.opened = path;
    this.showOpened();
  }

  showOpened() {
    this.openedChanged(this.opened);
    for (const part of this.root.querySelectorAll("[data-part]")) {
      const open = part.dataset.part === this.opened;
      part.classList.toggle("open", open);
      part.querySelector("[aria-expanded]")?.setAttribute("aria-expanded", String(open));
    }
  }

  /** How small and how large the number at a path may be; null where there is none. */
  limits(path) {
    const around = partsAlong(this.forms, this.doc, parentOf(path)).at(-1);
    const field = fieldOf(this.forms, around.part, stepsOf(path).pop());
    return field ? { least: field.least ?? 0, most: field.most ?? 86_400, whole: field.whole } : null;
  }

  /** Each problem stands at its place; one of a place that is not drawn stands at the nearest around it. */
  mark(problems) {
    this.problems = problems;
    for (const place of this.root.querySelectorAll("[data-problem-at]")) place.textContent = "";
    for (const { path, message } of problems) {
      let here = path, place = null;
      const find = () => this.root.querySelector(`[data-problem-at="${CSS.escape(here)}"]`);
      while (!(place = find()) && here) here = parentOf(here);
      if (place && !place.textContent) place.textContent = message;
    }
  }

  // -- what controls ask -------------------------------------------------------------------------------------------

  /** What is known around a path: the catalogue, the kind of event spoken of, its fields, and sorts of point wanted. */
  scope(path) {
    const kind = kindSpokenOf(this.forms, this.doc, path);
    const around = this.defaults.get(parentOf(path));
    const { forms, catalogue } = this;
    return { forms, catalogue, kind, fields: fieldsOf(catalogue, kind), kinds: around?.kinds || [] };
  }

  /** A part that its document leaves out has a default: the first change inside writes it down. */
  remember(path, field) { this.defaults.set(path, field); }

  blank(field, path) { return blankField(this.scope(path), { ...field, start: null }, {}); }
  blankNode(of, name, path) { return blankNode(this.scope(path), of, name); }

  // -- changes -----------------------------------------------------------------------------------------------------

  set(path, value, draw = true) {
    this.ensure(parentOf(path));
    put(this.doc, path, copy(value));
    this.settle(path);
    this.changed();
    if (draw) this.redraw();
  }

  ensure(path) {
    if (path === "" || at(this.doc, path) !== undefined) return;
    this.ensure(parentOf(path));
    put(this.doc, path, copy(this.defaults.get(path)?.default) ?? {});
  }

  /** What else changes when a field does: what depends on it, the phase of another kind, the value of another field. */
  settle(path) {
    const along = partsAlong(this.forms, this.doc, parentOf(path));
    const { part, value } = along[along.length - 1];
    const form = this.forms.parts[part], name = stepsOf(path).pop();
    if (value !== at(this.doc, parentOf(path))) return;
    settle(this.scope(path), form, value);
    const known = name === "kind" && this.catalogue.kinds.find((k) => k.name === value.kind);
    const phases = value.phase !== undefined && known?.phases;
    if (phases && !phases.includes(value.phase)) value.phase = phases[0];
    if (name === "field" && fieldOf(this.forms, part, "op")?.widget === "operator") recompare(this, path);
  }

  /** A cause or condition becomes one of another kind, and keeps what both have. */
  become(path, of, name) {
    const before = at(this.doc, path), { kinds, tag } = this.forms.nodes[of];
    if (before?.[tag] === name) return;
    const next = kinds.find((k) => k.name === name).part;
    const kept = before ? keepable(this.forms, partOf(this.forms, { widget: "nodes", of }, before), next, before) : {};
    if (before && ["all", "any"].includes(name)) kept.of = ["all", "any"].includes(before.test) ? before.of : [before];
    if (before && name === "not") kept.of = before;
    this.set(path, blankNode(this.scope(path), of, name, kept));
  }

  takeOut(path, what) {
    const gone = copy(at(this.doc, path));
    put(this.doc, path, undefined);
    if (this.opened.startsWith(path)) this.opened = "";
    this.changed();
    this.redraw();
    this.takenOut(what, () => this.putBack(path, gone));
  }

  putBack(path, value) {
    const around = at(this.doc, parentOf(path));
    if (Array.isArray(around)) around.splice(Number(stepsOf(path).pop()), 0, value);
    else put(this.doc, path, value);
    this.changed();
    this.redraw();
  }

  /** A step goes before or behind its neighbour. */
  shift(path, by) {
    const list = parentOf(path), from = Number(stepsOf(path).pop());
    if (!move(at(this.doc, list), from, by)) return;
    if (this.opened === path) this.opened = join(list, from + by);
    this.changed();
    this.redraw();
    // The hand stays on the button that moved it, or at the end of the list on the one that moves it back.
    const there = (way) => this.root.querySelector(`[data-key="${CSS.escape(`${join(list, from + by)}|${way}`)}"]`);
    (there(by)?.disabled ? there(-by) : there(by))?.focus();
  }
}
