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
    this.$root.addEventListener("click", ({ target }) => {
      const button = target.closest("[data-only]");
      if (button) this.only(button);
    });
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
    this.show((row) => row.textContent.toLowerCase().includes(wanted));
  },
  /** Only rows with a mark, or all again. */
  only(button) {
    const pressed = button.getAttribute("aria-pressed") !== "true", { only } = button.dataset;
    for (const other of this.$root.querySelectorAll("[data-only]")) {
      other.setAttribute("aria-pressed", String(pressed && other === button));
    }
    this.show((row) => !pressed || row.dataset.marks?.split(" ").includes(only));
  },
  /** Rows that are wanted, and the areas that have any. */
  show(wanted) {
    for (const area of this.$root.querySelectorAll("[data-area]")) {
      const rows = [...area.querySelectorAll("[data-row]")];
      for (const row of rows) row.hidden = !wanted(row);
      area.hidden = rows.length > 0 && rows.every((row) => row.hidden);
    }
  },
}));
