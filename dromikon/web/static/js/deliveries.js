// Deliveries: the page keeps up with what goes out, and sends again what may be.
import { call } from "./kit/ask.js";
import { component } from "./kit/component.js";
import { on } from "./kit/feed.js";
import { gathered } from "./kit/gather.js";
import { refreshTimes } from "./kit/times.js";
import { toast } from "./kit/toasts.js";
import { t } from "./kit/words.js";

/** So long what comes is gathered before the page asks again, in ms. */
const GATHER = 1500;

component("deliveries", () => ({
  init() {
    this.$root.addEventListener("click", (e) => this.again(e));
    const soon = gathered(() => this.refresh(), GATHER);
    on("step", soon);
  },

  /** Choices, what rests and the list as they are now; who is at a button keeps it. */
  async refresh() {
    const answer = await fetch(location.href);
    if (!answer.ok) return;
    const page = new DOMParser().parseFromString(await answer.text(), "text/html");
    for (const part of this.$root.querySelectorAll("[data-fresh]")) {
      const fresh = page.querySelector(`[data-fresh="${part.dataset.fresh}"]`);
      if (fresh && !part.contains(document.activeElement)) part.replaceWith(fresh);
    }
    refreshTimes(this.$root);
  },

  async again(event) {
    const button = event.target.closest("[data-again]");
    if (!button) return;
    button.disabled = true;
    try {
      await call("sendAgain", { places: { delivery: button.dataset.again } });
      toast(t("It is sent again."));
      button.blur();
      this.refresh();
    } catch (error) {
      button.disabled = false;
      toast(error.message, { bad: true });
    }
  },
}));
