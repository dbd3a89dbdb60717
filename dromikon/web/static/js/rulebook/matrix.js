// The rulebook as a matrix: rows narrowed by typing, and printed.
import { component } from "../kit/component.js";

component("matrix", () => ({
  filter(e) {
    const wanted = e.target.value.toLowerCase();
    for (const row of this.$root.querySelectorAll("[data-row]")) {
      row.hidden = !row.textContent.toLowerCase().includes(wanted);
    }
  },
  print() { window.print(); },
}));
