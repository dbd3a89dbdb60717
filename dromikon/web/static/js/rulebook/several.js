// Several rules at once: chosen by their boxes, by their group, or as a range with the shift key.
import { call } from "../kit/ask.js";
import { callAt } from "../kit/routes.js";
import { page } from "../kit/page.js";
import { toast, toastLater } from "../kit/toasts.js";
import { t, tn } from "../kit/words.js";

export const several = {
  chosen: [], tag: "", lastBox: null,

  get several() { return this.chosen.length > 0; },
  get severalWords() { return tn("{count} chosen", "{count} chosen", this.chosen.length); },
  get exportAddress() {
    return callAt(page.site, "exportRules", {}, { syntax: "yaml", rule: this.chosen.join(",") })[1];
  },
  get boxes() { return [...this.$root.querySelectorAll("[data-choose]")].filter((b) => !b.closest("[hidden]")); },

  listenToBoxes() {
    this.$root.addEventListener("click", (e) => { if (e.target.dataset.choose) this.range(e); });
    this.$root.addEventListener("change", ({ target }) => {
      if (target.dataset.chooseGroup !== undefined) this.chooseGroup(target);
      if (target.dataset.choose || target.dataset.chooseGroup !== undefined) this.count();
    });
  },
  range({ target, shiftKey }) {
    const all = this.boxes, from = all.indexOf(this.lastBox), to = all.indexOf(target);
    if (shiftKey && from >= 0) {
      for (const box of all.slice(Math.min(from, to), Math.max(from, to) + 1)) box.checked = target.checked;
    }
    this.lastBox = target;
    this.count();
  },
  chooseGroup(box) {
    const group = box.closest("[data-group]");
    for (const one of this.boxes.filter((b) => group.contains(b))) one.checked = box.checked;
  },
  count() { this.chosen = this.boxes.filter((b) => b.checked).map((b) => b.dataset.choose); },
  chooseNone() {
    for (const box of this.$root.querySelectorAll("[data-choose], [data-choose-group]")) box.checked = false;
    this.count();
  },

  doOn() { return this.doIt("on"); },
  doOff() { return this.doIt("off"); },
  doTag() { return this.doIt("tag"); },
  doUntag() { return this.doIt("untag"); },
  doRetire() { return this.doIt("retire"); },
  doRestore() { return this.doIt("restore"); },

  async doIt(verb) {
    const rules = this.chosen;
    try {
      const { done, refused } = await call("severalRules", { content: { rules, verb, tag: this.tag } });
      const names = Object.keys(refused).map((id) => `“${this.nameOf(id)}”: ${refused[id]}`);
      if (!names.length) {
        toastLater(tn("Done for {count} rule.", "Done for {count} rules.", done.length));
        location.reload();
        return;
      }
      this.problems = names.map((message) => ({ path: "", message }));
      toast(t("{done} done, {refused} not.", { done: done.length, refused: names.length }), { bad: true });
    } catch (error) { toast(error.message, { bad: true }); }
  },
  nameOf(id) { return this.$root.querySelector(`[data-rule="${CSS.escape(id)}"] h3 a`)?.textContent || id; },
};
