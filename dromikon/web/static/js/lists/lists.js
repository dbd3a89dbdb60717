// Lists: one of them opened. Its entries, what was seen that it could hold, tables, and its settings.
import { addressOf, call } from "../kit/ask.js";
import { component, joined } from "../kit/component.js";
import { on } from "../kit/feed.js";
import { dispatch } from "../kit/keys.js";
import { toastLater } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { byPicture } from "./by-picture.js";
import { rows } from "./rows.js";
import { seen } from "./seen.js";
import { tables } from "./tables.js";

const MOST_PROBLEMS = 12;

const lists = () => ({
  problems: [], newName: "", newSort: "plates", newProblem: "",

  init() {
    Object.assign(this, { id: this.$root.dataset.list, sort: this.$root.dataset.sort });
    window.addEventListener("beforeunload", (e) => { if (this.dirty) e.preventDefault(); });
    if (!this.id || this.$root.dataset.may !== "1") return;
    document.addEventListener("keydown", (e) => dispatch(e, { save: () => this.dirty && this.save() }));
    on("list", (m) => { if (m.subject === this.id) this.reload(); });
    this.reload();
    this.look();
    this.watchEnd();
  },

  async saveSettings(event) {
    const form = event.target, columns = {};
    for (const field of form.querySelectorAll("[data-column]")) {
      if (field.value.trim()) columns[field.dataset.column] = field.value.trim();
    }
    const content = {
      name: form.name.value, source: form.source.value, every: Number(form.every.value), columns,
      colour: form.colour.value, likeness: Number(form.likeness?.value || 85),
      renew: Number(form.renew?.value || 0), consent: Boolean(form.consent?.checked),
      cameras: [...form.querySelectorAll("[data-reader]:checked")].map((box) => box.value),
    };
    await this.told("changeList", { content }, t("Kept."));
  },
  async remove() {
    if (!confirm(t("Delete this list? Rules that name it find nothing in it any more."))) return;
    this.drop();
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
      toastLater(words);
      location.reload();
    } catch (error) { this.tell(error); }
  },
  tell(error) {
    const problems = error.problems?.length ? error.problems : [{ path: "", message: error.message }];
    this.problems = problems.slice(0, MOST_PROBLEMS);
  },
});

component("lists", () => joined(lists(), rows(), seen(), tables(), byPicture()));
