// Beside the plan: the points by area, or the chosen one with the cameras that look at it; and the plan's own form.
import { call, fragment } from "../kit/ask.js";
import { markProblems } from "../kit/component.js";
import { el } from "../form/dom.js";
import { refreshTimes } from "../kit/times.js";
import { toast, toastLater } from "../kit/toasts.js";
import { t } from "../kit/words.js";

export const side = {
  /** All points, those that are not placed first while points are placed. */
  list() {
    this.raw.chosen = "";
    const place = this.$root.querySelector("[data-side]"), { points, editing } = this.raw;
    const wanted = points.filter((p) => this.wanted(p));
    const loose = wanted.filter((p) => p.x === null), areas = new Map();
    for (const p of wanted) if (p.x !== null) areas.set(p.area, [...(areas.get(p.area) || []), p]);
    place.replaceChildren(
      ...(loose.length ? [this.block(t("Not on the plan"), loose, editing ? (p) => this.put(p.id) : null)] : []),
      ...[...areas].map(([area, some]) => this.block(area || t("No area yet"), some, (p) => this.goTo(p.id))),
    );
    this.draw();
  },
  block(title, points, act) {
    const rows = points.map((p) => el("li", {}, el(
      "button", { type: "button", class: `plan-row ${p.state}`, on: { click: () => act?.(p) }, disabled: !act },
      el("span", { class: "grow" }, p.name),
      el("span", { class: "quiet" }, p.state === "lost" ? t("out of reach") : p.now),
    )));
    return el("section", {}, el("h2", {}, title), el("ul", { class: "plain" }, ...rows));
  },
  async sheet(point) {
    const fresh = await fragment("planPoint", { point: point.id });
    if (!fresh || this.raw.chosen !== point.id) return;
    const place = this.$root.querySelector("[data-side]");
    const button = (words, click) => el("button", { type: "button", class: "btn small", on: { click } }, words);
    const buttons = [button(t("All points"), () => this.list())];
    if (this.raw.editing && point.x !== null) {
      buttons.push(button(t("Take off the plan"), () => this.takeOff(point.id)));
    }
    place.replaceChildren(el("div", { class: "row" }, buttons), fresh, this.viewForm(point) || "");
    refreshTimes(place);
    this.hearLines(place, point);
  },
  /** How wide and how far a camera sees, by number. */
  viewForm(point) {
    if (!this.raw.editing || !point.eye || point.x === null) return null;
    const field = (name, words, unit) => {
      const on = { change: (e) => this.see(point, name, e.target) };
      const input = el("input", { class: "inp narrow", inputmode: "decimal", value: point.eye[name], on });
      const called = el("span", { class: "grow" }, words);
      return el("label", { class: "row" }, called, input, el("span", { class: "unit" }, unit));
    };
    const fields = [["looks", t("looks to"), "°"], ["view", t("sees"), "°"], ["reach", t("as far as"), "m"]];
    return el("div", { class: "stack" }, ...fields.map((one) => field(...one)));
  },
  async see(point, name, field) {
    const before = { ...point.eye };
    point.eye[name] = Number(field.value.replace(",", "."));
    const kept = Number.isFinite(point.eye[name]) && await this.save(point);
    if (kept) this.raw.before.push({ id: point.id, x: point.x, y: point.y, eye: before });
    else { point.eye = before; field.value = before[name]; }
    this.draw();
  },

  hearLines(place, point) {
    const list = place.querySelector("[data-lines-of]");
    if (!list) return;
    const rows = () => [...list.querySelectorAll("[data-camera]")].map((row) => (
      { camera: row.dataset.camera, preset: row.querySelector("[data-preset]")?.value || "" }
    ));
    const set = (lines) => this.setLines(point, lines);
    place.addEventListener("click", ({ target }) => {
      const row = target.closest("[data-camera]"), add = target.closest("[data-add]");
      if (add) set([...rows(), { camera: add.dataset.add, preset: "" }]);
      else if (target.closest("[data-drop]")) set(rows().filter((line) => line.camera !== row.dataset.camera));
      else if (target.closest("[data-first]")) {
        set(rows().sort((a, b) => (b.camera === row.dataset.camera) - (a.camera === row.dataset.camera)));
      }
    });
    place.querySelector("[data-add-other]")?.addEventListener("change", ({ target }) => {
      if (target.value) set([...rows(), { camera: target.value, preset: "" }]);
    });
    for (const preset of list.querySelectorAll("[data-preset]")) preset.addEventListener("change", () => set(rows()));
  },
  async setLines(point, lines) {
    const done = await this.tell(() => call("setSightlines", { places: { point: point.id }, content: { lines } }));
    if (done) point.seen_by = lines.map((line) => line.camera);
    this.draw();
    await this.sheet(point);
  },
};

export const loading = {
  /** A drawing with its width, or the width alone. */
  async load(event) {
    const form = event.target, [file] = form.elements.namedItem("file").files;
    const wide = form.wide.value.replace(",", ".").trim();
    markProblems(form, []);
    try {
      if (file) await call("loadPlan", { query: { wide, name: file.name }, file });
      else await call("scalePlan", { content: { wide } });
      toastLater(t("Saved."));
      location.reload();
    } catch (error) {
      if (!markProblems(form, error.problems || [])) toast(error.message, { bad: true });
    }
  },
};
