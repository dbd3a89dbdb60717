// How a camera hangs: what its picture suffices for, at every number that is changed, and somebody who stands in it.
import { addressOf, call } from "../kit/ask.js";
import { component } from "../kit/component.js";
import { carried } from "../kit/page.js";
import { shape } from "../kit/svg.js";
import { toastLater, toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { el } from "../form/dom.js";
import { ThingForm } from "../setup/thing-form.js";
import { TALL, WIDE } from "../sources/shape.js";

/** How soon after a change it is reckoned, in ms; how far an arrow moves the person, as a share of the picture. */
const SOON = 150, STEP = 0.01;
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const metres = (value) => t("{metres} m", { metres: value });
const held = (value) => Math.max(0, Math.min(1, value));

component("siting", () => ({
  raw: { __v_skip: true, form: null, doc: {}, place: [0.5, 0.7], timer: 0, asked: 0, dragged: false },
  dirty: false,

  init() {
    const { mounting, forms } = carried("siting");
    this.raw.doc = mounting || {};
    this.raw.form = new ThingForm(this.$root.querySelector("[data-settings]"), {
      forms, catalogue: { kinds: [] }, doc: this.raw.doc, takenOut: () => {}, changed: () => this.changed(),
    });
    this.raw.form.begin(this.raw.doc, !mounting);
    const scene = this.$root.querySelector("[data-scene]");
    scene.addEventListener("pointerdown", (e) => { this.raw.dragged = true; this.stand(e); });
    scene.addEventListener("pointermove", (e) => { if (this.raw.dragged) this.stand(e); });
    for (const over of ["pointerup", "pointerleave"]) scene.addEventListener(over, () => { this.raw.dragged = false; });
    scene.addEventListener("keydown", (e) => this.key(e));
    window.addEventListener("beforeunload", (e) => { if (this.dirty) e.preventDefault(); });
    this.ask();
  },
  get clean() { return !this.dirty; },
  get camera() { return this.$root.dataset.camera; },
  changed() {
    this.dirty = true;
    this.soon();
  },
  soon() {
    clearTimeout(this.raw.timer);
    this.raw.timer = setTimeout(() => this.ask(), SOON);
  },
  stand(e) {
    const box = e.currentTarget.getBoundingClientRect();
    this.raw.place = [held((e.clientX - box.left) / box.width), held((e.clientY - box.top) / box.height)];
    this.soon();
  },
  key(e) {
    const by = ARROWS[e.key];
    if (!by) return;
    e.preventDefault();
    const step = e.shiftKey ? STEP * 5 : STEP;
    this.raw.place = this.raw.place.map((share, i) => held(share + by[i] * step));
    this.soon();
  },
  content() { return { document: this.raw.doc }; },
  async ask() {
    const mine = (this.raw.asked += 1), [x, y] = this.raw.place;
    const found = await this.told(() => call("siting", { places: this, content: { ...this.content(), x, y } }));
    if (found && mine === this.raw.asked) this.show(found);
  },
  show({ bands, faces, plates, near, view, concerns, person }) {
    const part = (name) => this.$root.querySelector(`[data-part="${name}"]`);
    const scene = this.$root.querySelector("[data-scene]"), focused = scene.contains(document.activeElement);
    scene.replaceChildren(...bands.flatMap(lines), ...(person ? [standing(person)] : []));
    if (focused) scene.querySelector("[tabindex]")?.focus();
    part("bands").replaceChildren(...[...bands].map(row));
    part("faces").textContent = stretch(faces);
    part("plates").textContent = stretch(plates);
    part("blind").textContent = metres(near);
    part("view").textContent = t("{degrees}° wide", { degrees: view });
    part("concerns").replaceChildren(...concerns.map((words) => el("li", {}, words)));
    part("concerns").hidden = !concerns.length;
    part("person").textContent = person ? said(person) : t("Nobody can stand there: it is above the horizon.");
  },
  async save() {
    const saved = await this.told(() => call("saveMounting", { places: this, content: this.content() }));
    if (!saved) return;
    this.dirty = false;
    toastLater(t("Saved. The plan shows what the camera suffices for."));
    location.href = addressOf("siting", this);
  },
  async told(doing) {
    try {
      this.raw.form.mark([]);
      return await doing();
    } catch (error) {
      if (!this.raw.form.mark(error.problems || [])) toast(error.message, { bad: true });
      return null;
    }
  },
}));

const stretch = (found) => (found
  ? t("{near} to {far} m", { near: found[0], far: found[1] }) : t("nowhere"));

const row = ({ label, wants, near, far, purpose }) => el("tr", { class: `band ${purpose}` },
  el("th", { scope: "row" }, label), el("td", { class: "figures" }, String(wants)),
  el("td", { class: "figures" }, metres(near)), el("td", { class: "figures" }, metres(far)));

/** Where a band ends in the picture. */
function lines({ line, label, far, purpose }, place) {
  if (line === null) return [];
  const y = line * TALL, words = t("{purpose} to {far} m", { purpose: label, far });
  // Far off bands end close to each other: their names stand on both sides.
  const side = place % 2 ? { x: WIDE - 20, "text-anchor": "end" } : { x: 20 };
  return [
    shape("line", { x1: 0, x2: WIDE, y1: y, y2: y, class: `band-end ${purpose}` }),
    shape("text", { ...side, y: Math.max(30, y - 10), class: "band-name" }, words),
  ];
}

/** Somebody's outline; it can be moved by hand and by arrows. */
function standing({ box: [left, top, right, bottom], ...person }) {
  const group = shape("g", { class: "stands", tabindex: 0, role: "img", "aria-label": said(person) });
  const x = left * WIDE, y = top * TALL;
  const width = (right - left) * WIDE, height = (bottom - top) * TALL, head = height / 7;
  group.append(
    shape("rect", { x, y: y + head, width, height: height - head, rx: width / 3 }),
    shape("circle", { cx: x + width / 2, cy: y + head / 2, r: head / 2 }),
  );
  return group;
}

const said = ({ away, pixels, face, plate, steep, density, purpose }) => t(
  "Somebody {away} m away is {pixels} pixels tall, {density} pixels a metre: {purpose}. A face is {face} pixels wide"
  + " and seen from {steep}° above, a plate {plate} wide.",
  { away, pixels, face, plate, steep, density, purpose: purpose || t("less than to monitor") },
);
