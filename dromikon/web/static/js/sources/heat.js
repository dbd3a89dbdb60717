// How a thermal camera measures and shows heat: asked of the camera when it is opened, and set on it.
import { call } from "../kit/ask.js";
import { component } from "../kit/component.js";
import { carried } from "../kit/page.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { ThingForm } from "../setup/thing-form.js";

component("heat", () => ({
  raw: { __v_skip: true, form: null, doc: null },
  words: "", loaded: false, palettes: [],

  get places() { return { device: this.$root.dataset.device }; },
  async load() {
    if (this.loaded || !this.$root.open) return;
    this.words = t("Asking the camera …");
    try { this.show(await call("heat", { places: this.places })); }
    catch (error) { this.words = error.problems?.[0]?.message || error.message; }
  },
  show({ document, palettes }) {
    Object.assign(this, { loaded: true, words: "", palettes });
    Object.assign(this.raw, { doc: document });
    const { forms } = carried("heat");
    this.raw.form = new ThingForm(this.$root.querySelector("[data-heat-form]"), {
      forms, catalogue: { kinds: [] }, doc: document, takenOut: () => {}, changed: () => {},
    });
    this.raw.form.begin(document, false);
    const options = palettes.map(([token, name]) => new Option(name, token, false, token === document.palette));
    this.$root.querySelector("[data-palette]").replaceChildren(...options);
  },
  recolour({ target }) { this.raw.doc.palette = target.value; },
  async save() {
    try {
      this.raw.form.mark([]);
      this.show(await call("setHeat", { places: this.places, content: { document: this.raw.doc } }));
      toast(t("The camera measures so from now on."));
    } catch (error) {
      const problems = error.problems || [];
      if (!this.raw.form.mark(problems)) toast(problems[0]?.message || error.message, { bad: true });
    }
  },
}));
