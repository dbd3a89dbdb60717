// Several alarms answered alike.
import { call } from "../kit/ask.js";
import { toast } from "../kit/toasts.js";
import { t, tn } from "../kit/words.js";
import { said } from "./answering.js";

export const together = {
  picked: [], togetherProblems: [],

  get together() { return this.picked.length > 1; },
  get togetherWords() { return tn("{count} alarm chosen", "{count} alarms chosen", this.picked.length); },
  get boxes() { return [...this.$root.querySelectorAll("[data-alarms] [data-choose]")]; },
  count() { this.picked = this.boxes.filter((b) => b.checked).map((b) => b.dataset.choose); },
  chooseNone() {
    for (const box of this.boxes) box.checked = false;
    Object.assign(this, { picked: [], togetherProblems: [] });
  },
  async answerTogether(event) {
    const form = event.target, content = { ...said(form), alarms: this.picked };
    for (const id of this.picked) {
      const card = this.$root.querySelector(`[data-alarm="${CSS.escape(id)}"]`);
      if (card) card.dataset.mine = "1";
    }
    try {
      const { done, refused } = await call("acknowledgeSeveral", { content });
      if (done.length) toast(tn("{count} alarm acknowledged.", "{count} alarms acknowledged.", done.length));
      const title = (id) => this.$root.querySelector(`[data-alarm="${CSS.escape(id)}"]`)?.ariaLabel || id;
      this.togetherProblems = Object.entries(refused).map(([id, why]) => `${title(id)}: ${why}`);
      this.picked = this.picked.filter((id) => !done.includes(id));
      if (!this.togetherProblems.length) form.reset();
    } catch (error) { toast(error.message, { bad: true }); }
  },
};
