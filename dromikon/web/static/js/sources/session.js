// What is said in a device's session, as it is said.
import { call, fragment } from "../kit/ask.js";
import { component } from "../kit/component.js";
import { refreshTimes } from "../kit/times.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

/** How often the page looks, in ms; and how often it says that somebody still watches. */
const LOOK = 1500, STILL = 60_000;

component("session", () => ({
  init() {
    const places = { device: this.$root.dataset.id };
    this.watch(places);
    setInterval(() => this.watch(places), STILL);
    setInterval(() => { if (!document.hidden) this.look(places); }, LOOK);
  },
  watch(places) { call("watchDevice", { places }).catch((error) => toast(error.message, { bad: true })); },
  async look(places) {
    const fresh = await fragment("deviceExchanges", places);
    const told = fresh?.querySelector("[data-count]")?.dataset.count;
    if (!told || told === this.told) return;
    this.told = told;
    const place = this.$root.querySelector("[data-exchanges]");
    const open = new Set([...place.querySelectorAll("details[open]")].map((d) => d.dataset.key));
    for (const one of fresh.querySelectorAll("details")) one.open = open.has(one.dataset.key);
    place.replaceChildren(fresh);
    refreshTimes(place);
  },
  async again() {
    try {
      await call("askDevice", { places: { device: this.$root.dataset.id } });
    } catch (error) { toast(error.message, { bad: true }); }
  },
  async copy() {
    const said = [...this.$root.querySelectorAll(".exchange")].map((one) => one.textContent.replace(/^\s+/gm, ""));
    await navigator.clipboard.writeText(said.join("\n\n"));
    toast(t("Copied."));
  },
}));
