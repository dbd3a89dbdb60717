// Records: searches kept under a name, and long facets unfolded. All else is links and a form.
import { call } from "./kit/ask.js";
import { component, markProblems } from "./kit/component.js";
import { toast, toastLater } from "./kit/toasts.js";
import { t } from "./kit/words.js";

/** What the schema has as numbers. */
const NUMBERS = new Set(["last", "start", "end"]);
const SINGLE = new Set([...NUMBERS, "words", "order"]);

/** A search as the API has it, of the pairs of an address. */
export function searchOf(pairs) {
  const found = {};
  for (const [name, value] of pairs) {
    if (SINGLE.has(name)) found[name] = NUMBERS.has(name) ? Number(value) : value;
    else (found[name] ||= []).push(value);
  }
  return found;
}

component("records", () => ({
  init() {
    this.$root.addEventListener("click", ({ target }) => {
      const further = target.closest("[data-further]"), dropped = target.closest("[data-drop]");
      if (further) this.unfold(further);
      if (dropped) this.drop(dropped);
    });
  },
  unfold(button) {
    const open = button.closest(".facet").classList.toggle("unfolded");
    button.setAttribute("aria-expanded", String(open));
  },
  async keep({ target: form }) {
    const name = form.elements.name.value, everybody = Boolean(form.elements.everybody?.checked);
    const document = searchOf(JSON.parse(this.$root.dataset.asked));
    markProblems(form, []);
    try {
      await call("keepSearch", { content: { name, everybody, document } });
      toastLater(t("{name} is kept.", { name }));
      location.reload();
    } catch (error) {
      if (!markProblems(form, error.problems || [])) toast(error.message, { bad: true });
    }
  },
  async drop({ dataset: { drop: search, name } }) {
    if (!confirm(t("Take the search {name} away? What it finds stays.", { name }))) return;
    await call("dropSearch", { places: { search } });
    toastLater(t("{name} is taken away.", { name }));
    location.reload();
  },
}));
