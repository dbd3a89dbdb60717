// Bookmarks beside the pictures: their words are changed in a dialog, several are taken away at once.
import { call } from "../kit/ask.js";
import { markProblems } from "../kit/component.js";
import { toast, toastLater } from "../kit/toasts.js";
import { t, tn } from "../kit/words.js";

export const bookmarks = {
  ticked: 0,

  get anyTicked() { return this.ticked > 0; },
  get dropWords() { return tn("Take {count} away", "Take {count} away", this.ticked); },
  get boxes() { return [...this.$root.querySelectorAll("[data-tick]:checked")]; },

  tick() { this.ticked = this.boxes.length; },
  /** The dialog with the words of one. */
  changeWords(e) {
    const row = e.target.closest("[data-words]"), dialog = this.$root.querySelector("[data-change]");
    const { title, note, tags } = JSON.parse(row.dataset.words), form = dialog.querySelector("form");
    this.changed = row.dataset.of;
    form.elements.title.value = title;
    form.elements.note.value = note;
    form.elements.tags.value = tags.join(" ");
    markProblems(form, []);
    dialog.showModal();
  },
  closeWords() { this.$root.querySelector("[data-change]").close(); },
  async saveWords({ target: form }) {
    const { title, note, tags } = form.elements;
    const content = { title: title.value, note: note.value, tags: tags.value.split(/[\s,]+/).filter(Boolean) };
    try {
      await call("changeBookmark", { places: { bookmark: this.changed }, content });
      toastLater(t("Kept."));
      location.reload();
    } catch (error) {
      if (!markProblems(form, error.problems || [])) toast(error.message, { bad: true });
    }
  },
  async dropTicked() {
    const words = t("Take the bookmarks away? What they mark stays recorded, as long as its recorder keeps it.");
    if (!confirm(words)) return;
    const numbers = this.boxes.map((box) => Number(box.dataset.tick));
    const { dropped } = await call("dropBookmarks", { content: { bookmarks: numbers } });
    toastLater(tn("{count} is taken away.", "{count} are taken away.", dropped));
    location.reload();
  },
};
