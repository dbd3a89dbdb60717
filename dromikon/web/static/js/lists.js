// Lists: entries edited in place, saved as one change, imported and exported as tables.
import { addressOf, call } from "./kit/ask.js";
import { component } from "./kit/component.js";
import { on } from "./kit/feed.js";
import { dispatch } from "./kit/keys.js";
import { carried } from "./kit/page.js";
import { toast, toastLater } from "./kit/toasts.js";
import { t } from "./kit/words.js";

const MOST_SHOWN = 300, MOST_PROBLEMS = 12;
let counter = 0;
const keyed = (entry) => ({ ...entry, key: (counter += 1) });

component("lists", () => ({
  entries: [], wanted: "", dirty: false, problems: [], newName: "", newSort: "plates", newProblem: "",

  init() {
    this.id = this.$root.dataset.list;
    this.entries = carried("entries").map(keyed);
    window.addEventListener("beforeunload", (e) => { if (this.dirty) e.preventDefault(); });
    document.addEventListener("keydown", (e) => dispatch(e, { save: () => this.dirty && this.save() }));
    on("list", (m) => { if (m.subject === this.id && !this.dirty) location.reload(); });
  },
  get matching() {
    const wanted = this.wanted.toLowerCase();
    const words = (e) => `${e.value} ${e.label || ""} ${e.note || ""}`.toLowerCase();
    return wanted ? this.entries.filter((e) => words(e).includes(wanted)) : this.entries;
  },
  get shown() { return this.matching.slice(0, MOST_SHOWN); },
  get hiddenCount() { return this.matching.length - this.shown.length; },
  get hiddenWords() { return t("{n} more; filter by typing to see them.", { n: this.hiddenCount }); },
  faceWords(e) { return e.template ? t("known") : t("none"); },

  typed(entry, field, event) {
    if (event.target.value) entry[field] = event.target.value;
    else delete entry[field];
    this.dirty = true;
  },
  add() {
    this.wanted = "";
    this.entries.unshift(keyed({ value: "" }));
    this.dirty = true;
    this.$nextTick(() => this.$root.querySelector(".entries input").focus());
  },
  takeOut(entry) {
    const at = this.entries.findIndex((e) => e.key === entry.key);
    const [gone] = this.entries.splice(at, 1);
    this.dirty = true;
    const undo = () => this.entries.splice(at, 0, gone);
    toast(t("“{entry}” taken out; save to make it so.", { entry: gone.label || gone.value }), { undo });
  },

  async erase(entry) {
    const { value } = entry;
    const asked = t("Erase “{value}” here and in everything kept: events, traces, pictures?", { value });
    if (this.dirty) { toast(t("Save first."), { bad: true }); return; }
    if (!confirm(asked)) return;
    await this.told("eraseEntry", { content: { value } }, t("“{value}” is erased.", { value }));
  },

  async save() {
    const content = { entries: this.entries.map(({ key, ...entry }) => entry) };
    await this.told("replaceEntries", { content }, t("Saved. Rules compare with it from now on."));
  },
  async importTable(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (file) await this.told("replaceTable", { file }, t("Imported {file}.", { file: file.name }));
  },
  async saveSettings(event) {
    const form = event.target;
    const content = { name: form.name.value, source: form.source.value, every: Number(form.every.value) };
    await this.told("changeList", { content }, t("Kept."));
  },
  async remove() {
    if (!confirm(t("Delete this list? Rules that name it find nothing in it any more."))) return;
    this.dirty = false;
    await call("deleteList", { places: { list: this.id } });
    location.href = addressOf("lists");
  },
  async make() {
    try {
      const made = await call("makeList", { content: { name: this.newName, sort: this.newSort } });
      location.href = addressOf("list", { list: made.id });
    } catch (error) { this.newProblem = error.message; }
  },
  /** Calls, and loads the page again with words that say what was done. */
  async told(name, given, words) {
    this.problems = [];
    try {
      await call(name, { places: { list: this.id }, ...given });
      this.dirty = false;
      toastLater(words);
      location.reload();
    } catch (error) {
      const problems = error.problems?.length ? error.problems : [{ path: "", message: error.message }];
      this.problems = problems.slice(0, MOST_PROBLEMS);
    }
  },
}));
