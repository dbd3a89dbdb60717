// One device: points renamed where they are seen, and what comes from it as it comes.
import { call, fragment } from "../kit/ask.js";
import { component } from "../kit/component.js";
import { on } from "../kit/feed.js";
import { gathered } from "../kit/gather.js";
import { refreshTimes } from "../kit/times.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { hearOfDevices } from "./verbs.js";

/** What comes close together is asked for once more, in ms. */
const GATHER = 300;

component("device", () => ({
  init() {
    hearOfDevices();
    const come = gathered(() => this.come(), GATHER);
    on("event", come);
    on("unclaimed", come);
    on("device", (m) => { if (m.subject === this.$root.dataset.id && !this.busy()) location.reload(); });
    this.$root.addEventListener("change", ({ target }) => { if (target.dataset.rename) this.rename(target); });
    this.$root.addEventListener("keydown", (e) => {
      if (e.key === "Enter" && e.target.dataset.rename) e.target.blur();
      if (e.key === "Enter" && e.target.dataset.offer) this.adopt(e.target);
    });
  },
  /** Somebody types, or looks at a sheet: the page stays as it is. */
  busy() { return Boolean(document.querySelector(".drawer") || document.activeElement.matches("input")); },
  async come() {
    const fresh = await fragment("deviceCome", { device: this.$root.dataset.id });
    if (!fresh) return;
    const place = this.$root.querySelector("[data-come]");
    place.replaceChildren(fresh);
    refreshTimes(place);
  },
  async rename(field) {
    const name = field.value.trim();
    try {
      await call("renamePoint", { places: { point: field.dataset.rename }, content: { name } });
      field.defaultValue = name;
      toast(t("It is called “{name}” now.", { name }));
    } catch (error) {
      field.value = field.defaultValue;
      toast(error.message, { bad: true });
    }
  },
  adopt(field) { field.closest("tr").querySelector("[data-adopt]").click(); },
}));
