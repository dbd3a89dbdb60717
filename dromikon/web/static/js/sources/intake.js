// An intake: what comes is seen coming, and its lines are copied.
import { fragment } from "../kit/ask.js";
import { component } from "../kit/component.js";
import { refreshTimes } from "../kit/times.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

/** How often the page looks, in ms. */
const LOOK = 2000;

const said = (within) => [...within.querySelectorAll("[data-sent], [data-outcome]")].map((e) => e.textContent).join();

component("intake", () => ({
  init() {
    this.$root.addEventListener("click", (e) => this.copy(e.target.closest("[data-copy]")));
    setInterval(() => { if (!document.hidden) this.look(); }, LOOK);
  },
  async look() {
    const place = this.$root.querySelector("[data-came]");
    const fresh = await fragment("intakeCame", { intake: this.$root.dataset.id });
    if (!fresh || said(fresh) === said(place)) return;
    const open = new Set([...place.querySelectorAll("[data-sent]:has(details[open])")].map((row) => row.dataset.sent));
    for (const row of fresh.querySelectorAll("[data-sent]")) {
      const details = row.querySelector("details");
      if (details) details.open = open.has(row.dataset.sent);
    }
    place.replaceChildren(fresh);
    refreshTimes(place);
  },
  async copy(button) {
    if (!button) return;
    await navigator.clipboard.writeText(button.dataset.copy);
    toast(t("Copied."));
  },
}));
