// What counters counted: where one stands as it changes, and corrected by hand.
import { call } from "../kit/ask.js";
import { component } from "../kit/component.js";
import { on } from "../kit/feed.js";
import { toast, toastLater } from "../kit/toasts.js";
import { t } from "../kit/words.js";

component("counts", () => ({
  init() {
    const stands = this.$root.querySelector("[data-stands]"), { counter } = this.$root.dataset;
    on("counter", ({ subject, data }) => { if (stands && subject === counter) stands.textContent = data.value; });
  },
  async correct({ target }) {
    const value = Number(target.elements.value.value);
    try {
      await call("setCounter", { places: this.$root.dataset, content: { value } });
      toastLater(t("Corrected: {value} are inside. The audit trail says who did so.", { value }));
      location.reload();
    } catch (error) { toast(error.problems?.[0]?.message || error.message, { bad: true }); }
  },
}));
