// Sources: filter, and devices that come and go.
import { component } from "../kit/component.js";
import { on } from "../kit/feed.js";
import { parameter } from "../kit/page.js";
import { hearOfDevices } from "./verbs.js";

/** Devices that change together are one reason to load the page again. */
const GATHER = 400;

component("sources", () => ({
  init() {
    hearOfDevices();
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
}));
