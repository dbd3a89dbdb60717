// What really happens while a rule is open: the latest events that it was told of, and what it made of each.
import { addressOf, fragment } from "../kit/ask.js";
import { on } from "../kit/feed.js";
import { gathered } from "../kit/gather.js";
import { openSheet } from "../kit/sheets.js";
import { refreshTimes } from "../kit/times.js";

const GATHER = 400;

export const lately = {
  hear() {
    if (!this.rule) return;
    const come = gathered(() => this.come(), GATHER);
    for (const topic of ["event", "run", "step"]) on(topic, come);
    this.$root.addEventListener("click", (e) => {
      const { event } = e.target.closest("[data-lately] [data-event]")?.dataset || {};
      if (event) openSheet(addressOf("event", { event }), `event-${event}`);
    });
  },
  async come() {
    const place = this.$root?.querySelector("[data-lately]"), fresh = await fragment("ruleLately", { rule: this.rule });
    if (!place || !fresh) return;
    const known = new Set([...place.querySelectorAll("[data-verdict]")].map((row) => row.dataset.verdict));
    const added = [...fresh.querySelectorAll("[data-verdict]")].filter((row) => !known.has(row.dataset.verdict));
    for (const row of added) row.classList.add("arrive");
    place.replaceChildren(fresh);
    refreshTimes(place);
  },
};
