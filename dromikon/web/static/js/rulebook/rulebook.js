// Rulebook: filter by typing, switch rules on and off with undo, take a file over.
import { call, fragment } from "../kit/ask.js";
import { component, joined } from "../kit/component.js";
import { refreshTimes } from "../kit/times.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { several } from "./several.js";
import { takingOver } from "./taking-over.js";

const rulebook = () => ({
  problems: [], wanted: "",

  init() {
    this.$root.addEventListener("change", (e) => { if (e.target.dataset.switch) this.toggle(e.target); });
    this.listenToBoxes();
    this.complete();
  },
  /** The rules that did not come with the page, and what the checks say. */
  async complete() {
    const { by, retired } = this.$root.dataset, list = this.$root.querySelector("[data-rules]");
    const said = retired ? null : fragment("checks"), asked = { by, ...(retired ? { retired } : {}) };
    for (let rest; (rest = list.querySelector("[data-following]"));) {
      const more = await fragment("rules", {}, { ...asked, from: rest.dataset.following });
      rest.remove();
      if (more) this.append(list, more);
      this.narrow();
    }
    for (const finding of (await said)?.querySelectorAll("[data-checks]") || []) {
      list.querySelector(`[data-checks="${CSS.escape(finding.dataset.checks)}"]`)?.replaceWith(finding);
    }
  },
  /** A group that was begun goes on. */
  append(list, more) {
    const open = [...list.querySelectorAll("[data-group]")].pop(), first = more.querySelector("[data-group]");
    if (open && first && open.dataset.group === first.dataset.group) {
      open.querySelector(".sheet-box").append(...first.querySelectorAll("[data-rule]"));
      first.remove();
    }
    list.append(more);
    refreshTimes(list);
  },

  filter(e) {
    this.wanted = e.target.value.toLowerCase();
    this.narrow();
  },
  narrow() {
    const wanted = this.wanted;
    for (const group of this.$root.querySelectorAll("[data-group]")) {
      const rows = [...group.querySelectorAll("[data-rule]")];
      for (const row of rows) row.hidden = !row.textContent.toLowerCase().includes(wanted);
      group.hidden = rows.every((row) => row.hidden);
    }
  },

  async toggle(box, quiet = false) {
    const row = box.closest("[data-rule]"), name = row.querySelector("h3").textContent;
    const undo = () => {
      box.checked = !box.checked;
      this.toggle(box, true);
    };
    try {
      await call("switchRule", { places: { rule: box.dataset.switch }, content: { enabled: box.checked } });
      row.classList.toggle("off", !box.checked);
      if (!quiet) toast(box.checked ? t("“{name}” is on.", { name }) : t("“{name}” is off.", { name }), { undo });
    } catch (error) {
      box.checked = !box.checked;
      toast(error.message, { bad: true, seconds: 10 });
    }
  },

});

component("rulebook", () => joined(rulebook(), several, takingOver));
