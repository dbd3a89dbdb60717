// Rulebook: filter by typing, switch rules on and off with undo, take a file over.
import { call } from "./kit/ask.js";
import { component } from "./kit/component.js";
import { toast, toastLater } from "./kit/toasts.js";
import { t } from "./kit/words.js";

const MOST_PROBLEMS = 12;

component("rulebook", () => ({
  problems: [],

  init() { this.$root.addEventListener("change", (e) => { if (e.target.dataset.switch) this.toggle(e.target); }); },

  filter(e) {
    const wanted = e.target.value.toLowerCase();
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

  /** A file is tried first; when it can be taken over, it is said what that does before it is done. */
  async takeOver(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    this.problems = [];
    try {
      const would = await call("importRules", { query: { trial: true }, file });
      const counts = { made: would.made.length, changed: would.changed.length, same: would.same.length };
      const words = t("{made} new, {changed} changed, {same} the same.", counts);
      if (!confirm(`${t("Take over {file}?", { file: file.name })} ${words}`)) return;
      const done = await call("importRules", { file });
      const off = done.left_off.length;
      const more = off ? ` ${t("{count} stay off until their checks are mended.", { count: off })}` : "";
      toastLater(`${t("Taken over:")} ${words}${more}`);
      location.reload();
    } catch (error) {
      const problems = error.problems?.length ? error.problems : [{ path: "", message: error.message }];
      this.problems = problems.slice(0, MOST_PROBLEMS);
    }
  },
}));
