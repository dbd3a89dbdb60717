// What holds for a whole camera: masks, in which nothing counts, and how long who is not seen is still there.
import { call } from "../kit/ask.js";
import { el } from "../form/dom.js";
import { carried } from "../kit/page.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { ThingForm } from "../setup/thing-form.js";
import { FIRST, fromShares } from "./shares.js";

/** What a mask is among what is drawn. */
export const MASK = "mask";

export const masks = {
  beginMasks() {
    const { seeing, forms } = carried("own");
    this.raw.kinds[MASK] = { label: t("Mask"), shape: "area" };
    this.raw.seeing = seeing;
    this.raw.masks = seeing.masks.map((corners, i) => mask(i, corners));
    const place = this.$root.querySelector("[data-seeing]");
    this.raw.whole = new ThingForm(place, {
      forms, catalogue: { kinds: [] }, doc: seeing, takenOut: () => {}, changed: () => this.masked(),
    });
    this.raw.whole.begin(seeing, false);
    this.listMasks();
    this.$root.querySelector("[data-masks]").addEventListener("click", (e) => this.maskClicked(e));
  },
  listMasks() {
    const button = (attributes, words) => el("button", { type: "button", ...attributes }, words);
    this.$root.querySelector("[data-masks]").replaceChildren(...this.raw.masks.map(({ id, name }) => el("li", {},
      button({ class: "plain", "data-row": id }, name),
      this.mayEdit && button({ class: "btn small plain", "data-drop-mask": id }, t("Take away")))));
  },
  masked() { this.dirty = true; },
  addMask() {
    this.raw.masks.push(mask(this.raw.masks.length, FIRST.area));
    this.masked();
    this.listMasks();
    this.open(this.raw.masks.at(-1).id);
  },
  maskClicked({ target }) {
    const { row, dropMask } = target.closest("[data-row], [data-drop-mask]")?.dataset || {};
    if (row) this.open(row);
    if (!dropMask) return;
    const left = this.raw.masks.filter(({ id }) => id !== dropMask);
    this.raw.masks = left.map(({ watch }, i) => mask(i, watch.corners));
    this.masked();
    this.listMasks();
    this.open(this.raw.known[0]?.id || "");
  },
  /** A detector that is being drawn stays as it is. */
  async saveSeeing() {
    const document = { ...this.raw.seeing, masks: this.raw.masks.map(({ watch }) => watch.corners) };
    try {
      this.raw.whole.mark([]);
      await call("saveSeeing", { places: this.places(), content: { document } });
      this.dirty = false;
      toast(t("Saved: it holds for everything that is watched here from now on."));
    } catch (error) {
      const problems = error.problems || [];
      if (!this.raw.whole.mark(problems)) toast(problems[0]?.message || error.message, { bad: true });
    }
  },
};

const mask = (i, corners) => ({
  id: `${MASK}-${i}`, name: t("Mask {n}", { n: i + 1 }), watch: { detects: MASK, corners }, points: fromShares(corners),
});
