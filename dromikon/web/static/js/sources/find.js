// Finding many devices: a search goes on by itself, and this page shows how far it is.
import { call } from "../kit/ask.js";
import { component, markProblems } from "../kit/component.js";
import { takeTable } from "../kit/tables.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { drawOutcomes } from "./outcomes.js";

/** How often a search that runs is looked at, in ms. */
const LOOK = 500;

component("find", () => ({
  raw: { __v_skip: true, search: "", outcomes: [], chosen: new Map() },

  init() {
    const { last } = this.$root.dataset;
    if (last) this.follow(last);
    this.$root.addEventListener("change", ({ target }) => { if (target.dataset.choose) this.choose(target); });
    this.$root.addEventListener("input", ({ target }) => { if (target.dataset.name) this.name(target); });
  },
  async begin(event) {
    const form = event.target, fields = Object.fromEntries(new FormData(form));
    markProblems(form, []);
    try {
      const made = await call("search", { content: { ...fields, network: form.network.checked } });
      this.raw.chosen.clear();
      this.follow(made.id);
    } catch (error) {
      if (!markProblems(form, error.problems || [])) toast(error.message, { bad: true });
    }
  },
  async follow(search) {
    this.raw.search = search;
    for (let ended = false; !ended && this.raw.search === search;) {
      const state = await call("searched", { places: { search } }).catch(() => null);
      if (!state) return;
      this.show(state);
      ended = state.ended;
      if (!ended) await new Promise((done) => { setTimeout(done, LOOK); });
    }
  },
  show({ outcomes, ended }) {
    this.raw.outcomes = outcomes;
    this.$root.querySelector("[data-results]").hidden = false;
    const asked = outcomes.filter((o) => o.state !== "asking").length;
    const found = outcomes.filter((o) => ["found", "here", "added"].includes(o.state)).length;
    const words = ended ? t("{n} addresses asked, {found} devices.", { n: outcomes.length, found })
      : t("{asked} of {n} asked …", { asked, n: outcomes.length });
    this.$root.querySelector("[data-progress]").textContent = words;
    const { chosen } = this.raw;
    for (const { state, address, name } of outcomes) {
      if (state === "found" && !chosen.has(address)) chosen.set(address, { on: true, name });
    }
    this.$root.querySelector("[data-add]").disabled = !ended || !outcomes.some((o) => o.state === "found");
    drawOutcomes(this.$root.querySelector("[data-outcomes]"), outcomes, chosen);
  },
  takeTable(event) { takeTable("takeDevices", event.target, this.$root); },
  choose(box) { this.raw.chosen.get(box.dataset.choose).on = box.checked; },
  name(field) { this.raw.chosen.get(field.dataset.name).name = field.value; },

  async add() {
    const wanted = this.raw.outcomes.filter((o) => o.state === "found" && this.raw.chosen.get(o.address)?.on);
    const chosen = wanted.map((o) => [o.address, this.raw.chosen.get(o.address).name.trim()]);
    const area = this.$root.querySelector("[data-area]").value || null;
    if (!chosen.length) { toast(t("Choose what is to be added."), { bad: true }); return; }
    try {
      const state = await call("addFound", { places: { search: this.raw.search }, content: { chosen, area } });
      this.show({ ...state, ended: true });
      const added = state.outcomes.filter((o) => o.state === "added").length;
      toast(t("{n} added; their sessions start within a second.", { n: added }));
    } catch (error) { toast(error.message, { bad: true }); }
  },
}));
