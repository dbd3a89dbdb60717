// Detectors of a camera: drawn over its picture, their corners dragged, their settings sent to the device.
import { addressOf, call } from "../kit/ask.js";
import { component, joined, markProblems } from "../kit/component.js";
import { toast, toastLater } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { corners } from "./corners.js";
import { measuring } from "./measuring.js";
import { drawScene } from "./scene.js";
import { lookOn } from "./seen.js";

/** How often the picture is taken again, in ms. */
const AGAIN = 2000;

const detectors = () => ({
  raw: { __v_skip: true, known: [], opened: "", before: [], dragged: null, stop: null },

  init() {
    const { opened } = this.$root.dataset;
    this.raw.known = JSON.parse(document.getElementById("drawn").textContent);
    this.raw.opened = opened;
    this.listen();
    this.draw();
    setInterval(() => this.live(), AGAIN);
  },
  listen() {
    const scene = this.$root.querySelector("[data-scene]");
    if (!scene) return;
    this.$root.addEventListener("click", (e) => this.click(e));
    this.hearCorners(scene);
  },
  draw(focused) {
    const scene = this.$root.querySelector("[data-scene]");
    if (!scene) return;
    drawScene(scene, this.raw.known, this.raw.opened, "edit" in this.$root.dataset);
    if (focused) scene.querySelector(`[data-corner="${focused}"]`)?.focus();
  },
  /** The picture as it is now. */
  live() {
    const img = this.$root.querySelector("[data-live]");
    if (img && !document.hidden && !this.raw.stop) img.src = `${img.dataset.live}&t=${Date.now()}`;
  },
  current() { return this.raw.known.find((d) => d.token === this.raw.opened); },
  shapes() { return this.current().shapes; },
  /** Shapes of the opened detector change; what they were can be brought back. */
  change(shapes, focused, keep = true) {
    const detector = this.current();
    if (keep) this.raw.before.push([detector.token, detector.shapes]);
    detector.shapes = shapes;
    this.draw(focused);
  },
  undo() {
    const last = this.raw.before.pop();
    if (!last) { toast(t("Nothing to undo.")); return; }
    const [token, shapes] = last;
    this.raw.known.find((d) => d.token === token).shapes = shapes;
    this.open(token);
  },
  click(e) {
    const see = e.target.closest("[data-see]");
    if (see) this.see(see);
    const open = e.target.closest("[data-open]");
    if (open) { e.preventDefault(); this.open(open.dataset.open); }
    if (e.target.dataset.delete) this.remove(e.target);
  },
  /** Show what the camera sees, or no longer. */
  see(button) {
    const stop = this.raw.stop;
    button.setAttribute("aria-pressed", String(!stop));
    this.raw.stop = null;
    if (stop) { stop(); return; }
    const part = (name) => this.$root.querySelector(`[data-${name}]`);
    const end = (why) => {
      this.raw.stop = null;
      button.setAttribute("aria-pressed", "false");
      toast(why, { bad: true });
    };
    const [place, words, img] = ["seen", "seen-words", "live"].map(part);
    this.raw.stop = lookOn({ place, words, img, places: { device: this.$root.dataset.id }, end });
  },
  open(token) {
    this.raw.opened = token;
    history.replaceState(null, "", addressOf("detectors", { device: this.$root.dataset.id }, { detector: token }));
    for (const panel of this.$root.querySelectorAll("[data-detector]")) {
      panel.querySelector("form").hidden = panel.dataset.detector !== token;
    }
    this.draw();
  },

  async save(event) {
    const form = event.target, { token, shapes } = this.current();
    markProblems(form, []);
    const settings = Object.fromEntries(new FormData(form));
    await this.told(form, async () => {
      await call("changeDetector", { places: { device: this.$root.dataset.id }, content: { token, settings, shapes } });
      this.raw.before = [];
      toast(t("The device has taken it."));
    });
  },
  async make(event) {
    const form = event.target, content = Object.fromEntries(new FormData(form));
    await this.told(form, async () => {
      const made = await call("makeDetector", { places: { device: this.$root.dataset.id }, content });
      toastLater(t("Made. Draw it where it is to watch."));
      location.href = addressOf("detectors", { device: this.$root.dataset.id }, { detector: made.token });
    });
  },
  async remove(button) {
    const { name, delete: token } = button.dataset;
    if (!confirm(t("Take {name} off the device? It no longer reports anything.", { name }))) return;
    await this.told(button.closest("form"), async () => {
      await call("deleteDetector", { places: { device: this.$root.dataset.id }, query: { token } });
      toastLater(t("{name} is off the device.", { name }));
      location.href = addressOf("detectors", { device: this.$root.dataset.id });
    });
  },
  /** What is refused is told at its place, or in a line. A device takes its time; meanwhile nothing is sent twice. */
  async told(form, doing) {
    const buttons = form.querySelectorAll("button");
    for (const button of buttons) button.disabled = true;
    try {
      await doing();
    } catch (error) {
      if (!markProblems(form, error.problems || [])) toast(error.message, { bad: true });
    } finally { for (const button of buttons) button.disabled = false; }
  },
});

component("detectors", () => joined(detectors(), corners, measuring));
