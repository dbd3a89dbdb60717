// Temperatures at single places of a thermal picture: a click, or the arrows and Enter, and the camera is asked.
import { addressOf, call } from "../kit/ask.js";
import { shape } from "../kit/svg.js";
import { toast, toastLater } from "../kit/toasts.js";
import { wall } from "../kit/times.js";
import { t } from "../kit/words.js";
import { TALL, WIDE, toDevice, toDrawing } from "./shape.js";

/** So many stay in the picture, the latest. */
const MOST = 8;
const STEP = 16;
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

const fahrenheit = (celsius) => (celsius * 9) / 5 + 32;
const shown = (celsius) => t("{c} °C, {f} °F", { c: celsius.toFixed(1), f: fahrenheit(celsius).toFixed(1) });

export const measuring = {
  measures: false,
  measured: [],
  asking: false,
  aim: [WIDE / 2, TALL / 2],

  get hasMeasured() { return this.measured.length > 0; },
  beginMeasuring() {
    this.measures = !this.measures;
    this.drawMeasured();
    if (this.measures) this.$root.querySelector(".aim")?.focus();
  },
  /** A click on the picture. */
  async measureHere(e) {
    if (!this.measures || e.target.closest(".aim")) return;
    const box = e.currentTarget.getBoundingClientRect();
    this.aim = [((e.clientX - box.left) / box.width) * WIDE, ((e.clientY - box.top) / box.height) * TALL];
    await this.measureAim();
  },
  async aimByKey(e) {
    if (!e.target.closest?.(".aim")) return;
    const arrow = ARROWS[e.key], step = STEP * (e.shiftKey ? 5 : 1);
    if (arrow) this.aim = this.aim.map((at, i) => Math.max(0, Math.min([WIDE, TALL][i], at + arrow[i] * step)));
    else if (e.key !== "Enter" && e.key !== " ") return;
    e.preventDefault();
    if (arrow) this.drawMeasured(true);
    else await this.measureAim();
  },
  /** The camera takes seconds; meanwhile nothing else is asked of it. */
  async measureAim() {
    if (this.asking) return;
    this.asking = true;
    const place = toDevice(this.aim), [x, y] = place, focused = document.activeElement?.matches(".aim");
    this.drawMeasured(focused);
    try {
      const { celsius } = await call("measure", { places: { device: this.$root.dataset.id }, content: { x, y } });
      const at = Date.now();
      this.measured = [{ place, at, words: shown(celsius), time: wall(at, false, true) }, ...this.measured]
        .slice(0, MOST);
    } catch (error) {
      toast(error.problems?.[0]?.message || error.message, { bad: true });
    } finally { this.asking = false; }
    this.drawMeasured(focused);
  },
  drawMeasured(focused = false) {
    const place = this.$root.querySelector("[data-measured]");
    place.replaceChildren(...this.measured.map(mark), ...(this.measures ? [aim(this.aim, this.asking)] : []));
    place.classList.toggle("on", this.measures);
    if (focused) place.querySelector(".aim")?.focus();
  },
  /** Measured for good from now on: a detector of the camera. */
  async keepMeasured(one) {
    const { id, spotType: type, spotItem: item } = this.$root.dataset;
    const taken = new Set(this.raw.known.map((d) => d.name));
    const number = Array.from({ length: 99 }, (_, i) => i + 1).find((n) => !taken.has(t("Spot {n}", { n })));
    const content = { type, name: t("Spot {n}", { n: number }), shapes: [{ item, sort: "spot", points: [one.place] }] };
    try {
      const made = await call("makeDetector", { places: { device: id }, content });
      toastLater(t("{name} is measured from now on.", { name: made.name }));
      location.href = addressOf("detectors", { device: id }, { detector: made.token });
    } catch (error) {
      toast(error.problems?.[0]?.message || error.message, { bad: true });
    }
  },
};

function mark({ place, words }) {
  const [x, y] = toDrawing(place), group = shape("g", { class: "measured-at" });
  const text = shape("text", { x: Math.min(x + 18, WIDE - 290), y: Math.max(y - 14, 34) });
  text.textContent = words;
  group.append(cross(x, y, 14), text);
  return group;
}

function aim([x, y], asking) {
  const words = asking ? t("Asking the camera …") : t("Place to be measured: arrows move it, Enter measures");
  const group = shape("g", { class: asking ? "aim asking" : "aim", tabindex: 0, role: "button", "aria-label": words });
  group.append(shape("circle", { cx: x, cy: y, r: 24 }), cross(x, y, 40));
  return group;
}

/** A cross that leaves its middle free. */
const cross = (x, y, r) => shape("path", {
  d: `M ${x - r} ${y} H ${x - 5} M ${x + 5} ${y} H ${x + r} M ${x} ${y - r} V ${y - 5} M ${x} ${y + 5} V ${y + r}`,
});
