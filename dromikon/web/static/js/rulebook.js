// Rulebook: filter by typing, switch rules on and off, with undo.
"use strict";

document.addEventListener("alpine:init", () => {
  const site = document.body.dataset.site;
  Alpine.data("rulebook", () => ({
    init() { this.$root.addEventListener("change", (e) => { if (e.target.dataset.switch) this.toggle(e.target); }); },
    filter(e) {
      const wanted = e.target.value.toLowerCase();
      for (const row of this.$root.querySelectorAll("[data-rule]")) row.hidden = !row.textContent.toLowerCase().includes(wanted);
      for (const group of this.$root.querySelectorAll("[data-group]")) group.hidden = ![...group.querySelectorAll("[data-rule]")].some((r) => !r.hidden);
    },
    async toggle(box, quiet = false) {
      const row = box.closest("[data-rule]");
      try {
        await dromikon.send("POST", `/s/${site}/rulebook/${box.dataset.switch}/switch`, { on: box.checked });
        row.classList.toggle("off", !box.checked);
        const name = row.querySelector("h3").textContent;
        if (!quiet) dromikon.toast(`“${name}” is ${box.checked ? "on" : "off"}.`, { undo: () => { box.checked = !box.checked; this.toggle(box, true); } });
      } catch (error) {
        box.checked = !box.checked;
        dromikon.toast((error.problems || []).map((p) => p.message).join(" ") || error.message, { bad: true, seconds: 10 });
      }
    },
  }));
});
