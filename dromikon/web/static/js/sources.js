// Sources: filter, the device form, and points that a device offers.
import { call } from "./kit/ask.js";
import { component, markProblems } from "./kit/component.js";
import { on } from "./kit/feed.js";
import { parameter } from "./kit/page.js";
import { toast, toastLater } from "./kit/toasts.js";
import { t } from "./kit/words.js";

/** Devices that change together are one reason to load the page again. */
const GATHER = 400;

component("sources", () => ({
  init() {
    document.addEventListener("submit", (e) => { if (e.target.matches("[data-device-form]")) this.save(e); });
    document.addEventListener("click", ({ target }) => {
      if (target.dataset?.adopt) this.adopt(target);
      if (target.dataset?.retire) this.retire(target);
    });
    on("device", () => this.soon());
    const open = parameter("open");
    if (open) this.$root.querySelector(`[data-sheet-key="${CSS.escape(open)}"]`)?.click();
  },
  soon() {
    if (document.querySelector(".drawer")) return;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => location.reload(), GATHER);
  },
  filter(e) {
    const wanted = e.target.value.toLowerCase();
    for (const device of this.$root.querySelectorAll("[data-device]")) {
      device.hidden = !device.textContent.toLowerCase().includes(wanted);
    }
  },

  async save(event) {
    event.preventDefault();
    const form = event.target, device = form.dataset.device;
    const fields = Object.fromEntries(new FormData(form));
    const content = { ...fields, area: fields.area || null, enabled: form.enabled.checked };
    markProblems(form, []);
    try {
      await (device ? call("changeDevice", { places: { device }, content }) : call("makeDevice", { content }));
      toastLater(t("Saved. Its session starts within a second."));
      location.href = location.pathname;
    } catch (error) {
      if (!markProblems(form, error.problems || [])) toast(error.message, { bad: true });
    }
  },
  async retire(button) {
    const { device, retire: name } = button.dataset;
    if (!confirm(t("Take {name} and its points away? What happened keeps its name.", { name }))) return;
    try {
      await call("retireDevice", { places: { device } });
      toastLater(t("{name} is taken away.", { name }));
      location.href = location.pathname;
    } catch (error) { toast(error.message, { bad: true }); }
  },
  async adopt(button) {
    const { device, adopt: token } = button.dataset;
    try {
      const point = await call("adopt", { places: { device }, content: { token } });
      button.closest("tr").remove();
      const unseen = t("It is a point now, but no recorder records it: no pictures from before.");
      toast(point.recorded === false ? unseen : t("It is a point now; rules can name it."));
    } catch (error) { toast(error.message, { bad: true }); }
  },
}));
