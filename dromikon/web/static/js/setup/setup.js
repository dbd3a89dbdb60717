// Set-up: things of one sort, opened in a sheet whose form is drawn from the description of the sort's document.
import { copy } from "../form/paths.js";
import { asked, call } from "../kit/ask.js";
import { component } from "../kit/component.js";
import { dispatch } from "../kit/keys.js";
import { carried, parameter } from "../kit/page.js";
import { closeSheet, showSheet } from "../kit/sheets.js";
import { takeTable } from "../kit/tables.js";
import { toast, toastLater } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { showOnce, drawThing } from "./thing.js";
import { ThingForm } from "./thing-form.js";

component("setup", () => ({
  dirty: false,
  raw: { __v_skip: true, open: null, form: null, doc: {} },

  init() {
    const { sort, single, forms, catalogue, things, verbs } = carried("setup");
    Object.assign(this.raw, { sort, single, forms, catalogue, things, verbs });
    this.$root.addEventListener("click", (e) => { if (e.target.dataset?.open) this.openThing(e.target.dataset.open); });
    document.addEventListener("keydown", (e) => dispatch(e, { save: () => this.save(), add: () => this.add() }));
    window.addEventListener("beforeunload", (e) => { if (this.dirty) e.preventDefault(); });
    if (single) this.openInPage();
    else if (parameter("open") === "new") this.add();
    else if (things[parameter("open")]) this.openThing(parameter("open"));
  },
  filter(event) {
    const wanted = event.target.value.toLowerCase(), lines = [...this.$root.querySelectorAll("[data-thing]")];
    for (const line of lines) line.hidden = !line.textContent.toLowerCase().includes(wanted);
    this.$root.querySelector("[data-count]").textContent = lines.filter((l) => !l.hidden).length;
  },

  // -- one thing -----------------------------------------------------------------------------------------------------
  openInPage() {
    const [id] = Object.keys(this.raw.things);
    this.edit(id, this.$root.querySelector("[data-form]"));
  },
  openThing(id) { this.edit(id, showSheet(this.raw.things[id].name, id)); },
  add() {
    if (this.raw.single) return;
    this.edit(null, showSheet(t("New"), "new"));
  },
  edit(id, holder) {
    const known = id === null ? { name: t("New"), document: {}, verbs: [] } : this.raw.things[id];
    const doc = copy(known.document);
    const acts = { save: () => this.save(), retire: () => this.retire(), verb: (v) => this.verb(v) };
    const { single, verbs, forms, catalogue } = this.raw, changed = () => { this.dirty = true; };
    const place = drawThing(holder, { known, isNew: id === null, single, verbs, acts });
    this.raw.form = new ThingForm(place, { forms, catalogue, doc, changed, takenOut: () => {} });
    Object.assign(this.raw, { open: id, known, doc });
    this.dirty = false;
    this.raw.form.begin(doc, id === null);
    place.querySelector("input, select, button, textarea")?.focus();
  },

  // -- verbs ---------------------------------------------------------------------------------------------------------
  async save() {
    if (!this.raw.form) return;
    const { open, doc, sort, known } = this.raw;
    const content = { document: doc, version: known.version };
    const made = await this.tell(open === null ? "addThing" : "changeThing", { sort, thing: open }, { content });
    if (made) this.done(made, t("Saved."));
  },
  async retire() {
    const { open, sort, known } = this.raw;
    const answer = await asked("retireThing", { places: { sort, thing: open } });
    if (answer.status === 409) {
      const { error } = await answer.json();
      const question = t("{what} Checks will say so. Take it away anyway?", { what: error });
      if (!confirm(question)) return;
      if (!(await this.tell("retireThing", { sort, thing: open }, { query: { anyway: true } }))) return;
    } else if (!answer.ok) {
      const { error, problems } = await answer.json();
      toast(problems?.[0]?.message || error, { bad: true });
      return;
    }
    this.done({}, t("{name} is taken away; what happened keeps its name.", { name: known.name }));
  },
  async verb(verb) {
    const { open, sort } = this.raw;
    if (verb.asks && !confirm(verb.asks)) return;
    const made = await this.tell("doToThing", { sort, thing: open, verb: verb.name }, {});
    if (made) this.done(made, made.said || t("Done."));
  },
  /** What is shown this once stays until somebody has it; else the page shows how things are now. */
  done(made, words) {
    this.dirty = false;
    if (made.shown) {
      showOnce(document.querySelector(".drawer"), made.shown, () => { location.href = location.pathname; });
      return;
    }
    toastLater(words);
    if (!this.raw.single) closeSheet();
    location.href = location.pathname;
  },
  /** Calls; null when it was refused, which stands at its places then. */
  async tell(name, places, given) {
    try {
      return await call(name, { places, ...given });
    } catch (error) {
      const drawn = this.raw.form.mark(error.problems || []);
      if (!drawn) toast(error.message, { bad: true });
      return null;
    }
  },

  takeTable(event) { takeTable("takePoints", event.target, this.$root); },
}));
