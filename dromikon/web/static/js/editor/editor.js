// Rule editor: edits the document; the server says how it reads, when things happen, and what a colleague would say.
import { Form } from "../form/form.js";
import { copy } from "../form/paths.js";
import { component, joined } from "../kit/component.js";
import { dispatch } from "../kit/keys.js";
import { carried } from "../kit/page.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { dress } from "./cards.js";
import { chosen } from "./chosen.js";
import { History } from "./history.js";
import { makeThing, valuesSeen } from "./helping.js";
import { past } from "./past.js";
import { TimePlan } from "./plan.js";
import { keeping } from "./keeping.js";
import { lately } from "./lately.js";
import { planHead } from "./plan-head.js";
import { readings } from "./readings.js";
import { testing } from "./testing.js";
import { text } from "./text.js";
import { verbs } from "./verbs.js";

/** A pause in typing before the draft is read, in ms. */
const SOON = 90;

/** A selection of what was picked: points one by one, and areas or sorts of point as a whole. */
function selectionOf(picked) {
  const found = {};
  for (const { id, name, part = "points", item = { id, name } } of picked) {
    found[part] = [...(found[part] || []), copy(item)];
  }
  return found;
}

const editor = () => ({
  enabled: false, revision: null, live: null, rule: "", named: "", opened: "", may: false, begun: false, homeless: [],
  dirty: false, saving: false, undoable: false, redoable: false, asking: carried("open-places"),
  // What Alpine is not to watch: the form draws itself, and a watched document would be another object.
  raw: { __v_skip: true, doc: {} },
  get doc() { return this.raw.doc; },
  get form() { return this.raw.form; },
  get history() { return this.raw.history; },

  init() {
    const d = this.$root.dataset, doc = { response: [], ...carried("document") };
    const number = (text) => (text ? Number(text) : null);
    Object.assign(this, { rule: d.rule, revision: number(d.revision), live: number(d.live) });
    Object.assign(this, { enabled: d.enabled === "1", may: d.may === "1" });
    this.raw = { __v_skip: true, doc, form: this.makeForm(doc), history: new History(doc), words: {} };
    this.raw.plan = new TimePlan(this.raw.form.root, {
      moved: (path, value, done) => this.form.set(path, value, done), limits: (path) => this.form.limits(path),
    });
    this.form.planHead = () => planHead(this.raw.plan);
    this.form.seen = valuesSeen();
    this.form.make = makeThing;
    this.form.openedChanged = (path) => { this.opened = path; };
    this.form.afterwards = () => this.dress();
    this.form.opened = doc.cause ? "" : "cause";
    document.addEventListener("keydown", (e) => this.keys(e));
    this.$root.addEventListener("click", (e) => this.follow(e));
    window.addEventListener("beforeunload", (e) => { if (this.dirty && !this.saving) e.preventDefault(); });
    this.show(doc);
    this.findLeft();
    this.preview();
    this.hear();
  },
  makeForm(doc) {
    const takenOut = (what, undo) => toast(t("{part} taken out.", { part: what }), { undo });
    const changed = () => this.changed();
    const given = { forms: carried("forms"), catalogue: carried("catalogue"), doc, changed, takenOut };
    return new Form(this.$root.querySelector("[data-form]"), given);
  },
  show(doc) {
    this.raw.doc = doc;
    Object.assign(this, { named: doc.name || "", begun: Boolean(doc.cause) });
    this.form.show(doc);
  },

  get proposed() { return !this.rule && this.begun; },
  get clean() { return !this.failed && !this.findings.length && !this.problems.length && this.begun; },
  get canUndo() { return this.undoable; },
  get canRedo() { return this.redoable; },
  get canSave() {
    return this.may && (this.dirty || this.proposed) && !this.saving && this.sound;
  },
  get canSwitch() { return this.may && Boolean(this.rule) && !this.dirty; },
  get onWords() { return this.enabled ? t("On") : t("Off"); },
  get drafted() { return this.live !== null && this.revision !== this.live; },
  get canPutLive() { return this.may && this.enabled && (this.drafted || this.dirty) && !this.saving && this.sound; },
  get sound() { return !this.problems.length && !this.textProblems.length; },
  get savedWords() {
    if (this.dirty) return t("not saved");
    if (this.drafted && this.enabled) return t("draft {n}, not live", { n: this.revision });
    return this.revision ? t("revision {n}", { n: this.revision }) : t("new");
  },
  get saveWords() { return this.enabled ? t("Save draft") : t("Save"); },
  get saveLook() { return this.enabled ? "" : "own"; },
  get savedLook() { return this.dirty || (this.drafted && this.enabled) ? "state wait" : "quiet"; },
  hasProblem(path) { return String(this.problems.some((p) => p.path === path)); },
  rename(e) { this.doc.name = this.named = e.target.value; this.changed(); },

  /** Puts what was chosen into every place of the document that waits for it. */
  dress() {
    const { words, doc, plan } = this.raw, { findings, problems } = this, { forms } = this.form;
    const verbs = { mend: (f) => this.mend(f), canTry: (f) => this.canTry(f), tryCall: (f) => this.tryCall(f) };
    this.homeless = dress(this.form.root, { words, findings, problems, doc, forms }, verbs);
    plan.draw();
  },
  fill(place, option) {
    const has = place.chosen.includes(option.id);
    const without = place.chosen.filter((id) => id !== option.id);
    place.chosen = !place.many ? [option.id] : has ? without : [...place.chosen, option.id];
    const picked = place.options.filter((o) => place.chosen.includes(o.id));
    for (const path of place.paths) {
      if (place.sources) this.form.set(path.replace(/\.points$/, ""), selectionOf(picked));
      else this.form.set(path, place.many ? picked.map(copy) : copy(picked[0]));
    }
  },
  /** The mend sets one place of the document to a value. */
  mend(f) { this.form.set(f.mend.path, f.mend.value); },

  // -- changes, undo -----------------------------------------------------------------------------------------------
  changed() {
    this.dirty = this.undoable = true;
    this.begun = Boolean(this.doc.cause);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.noted(), SOON);
  },
  noted() {
    this.history.note(this.doc);
    this.keepCopy();
    Object.assign(this, { undoable: this.history.canUndo, redoable: this.history.canRedo });
    this.preview();
  },
  undo() { this.restore(this.history.undo()); },
  redo() { this.restore(this.history.redo()); },
  restore(doc) {
    if (!doc) return;
    this.show(doc);
    const { canUndo: undoable, canRedo: redoable } = this.history;
    Object.assign(this, { dirty: true, undoable, redoable });
    if (this.view === "document") this.showDocument();
    this.preview();
  },

  // -- sentence links, views, keys ---------------------------------------------------------------------------------
  follow(e) {
    const link = e.target.closest("[data-sentence] a");
    if (!link) return;
    e.preventDefault();
    this.view = "parts";
    const [name, place] = link.dataset.part.split(".");
    this.goTo(name === "response" && place !== undefined ? `response.${place}` : name);
  },
  /** Opens a part and goes there. */
  goTo(path) {
    const part = document.getElementById(`part-${path.replace(".", "-")}`);
    if (!part) return;
    this.form.unfold(path);
    const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
    part.scrollIntoView({ block: "start", behavior: still ? "auto" : "smooth" });
    part.classList.add("lit");
    setTimeout(() => part.classList.remove("lit"), 1200);
    part.querySelector("input, select, textarea, button")?.focus({ preventScroll: true });
  },
  keys(e) {
    // A field undoes its own typing first.
    const field = ["TEXTAREA", "INPUT"].includes(e.target.tagName);
    const unless = (verb) => () => (field ? false : verb());
    dispatch(e, { save: () => this.save(), undo: unless(() => this.undo()), redo: unless(() => this.redo()) });
  },
});

component("editor", () => joined(editor(), keeping, lately, readings, past, chosen, testing, text, verbs));
