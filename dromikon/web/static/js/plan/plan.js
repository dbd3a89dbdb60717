// The site plan: zoomed and moved, points chosen, placed and aimed, states as they come.
import { call } from "../kit/ask.js";
import { component, joined } from "../kit/component.js";
import { on } from "../kit/feed.js";
import { gathered } from "../kit/gather.js";
import { sure } from "../kit/sure.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { commandClicked } from "../desk/at-hand.js";
import { HALF, drawPlan } from "./marks.js";
import { placing } from "./placing.js";
import { loading, side } from "./side.js";
import { centred, moved, scaleOf, whole, zoomed } from "./view.js";

/** One notch of the wheel or a key; an arrow's part of the frame; how close is one reason to ask again, in ms. */
const NOTCH = 1.25, ARROW = 0.1, GATHER = 800;
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

component("plan", () => joined({
  raw: { __v_skip: true, points: [], view: null, chosen: "", filter: "", editing: false, held: null, before: [] },

  init() {
    const { wide, tall } = this.$root.dataset;
    this.raw.plan = { wide: Number(wide), tall: Number(tall) };
    if (!this.raw.plan.wide) return;
    this.raw.points = JSON.parse(document.getElementById("plan-points").textContent);
    this.raw.frame = this.$root.querySelector("[data-frame]");
    this.hear();
    this.whole();
    this.list();
    new ResizeObserver(() => this.fit()).observe(this.raw.frame);
    const again = gathered(() => this.again(), GATHER);
    on("event", (m) => { this.spoke(m); again(); });
    for (const topic of ["device", "alarm", "button"]) on(topic, again);
    document.addEventListener("click", commandClicked);
    document.addEventListener("click", (e) => this.pressed(e));
  },
  hear() {
    const { frame } = this.raw;
    frame.addEventListener("wheel", (e) => this.wheel(e), { passive: false });
    frame.addEventListener("pointerdown", (e) => this.press(e));
    frame.addEventListener("pointermove", (e) => this.drag(e));
    for (const end of ["pointerup", "pointercancel"]) frame.addEventListener(end, (e) => this.release(e));
    frame.addEventListener("keydown", (e) => this.key(e));
  },

  // -- what is shown ----------------------------------------------------------------------------------------------
  get proportions() { return this.raw.frame.clientWidth / this.raw.frame.clientHeight; },
  get scale() { return this.raw.view.wide / this.raw.frame.clientWidth; },
  whole() { this.show(whole(this.raw.plan, this.proportions)); },
  zoomIn() { this.zoom(NOTCH); },
  zoomOut() { this.zoom(1 / NOTCH); },
  zoom(factor, place) {
    const { view, plan } = this.raw;
    this.show(zoomed(view, factor, place || [view.x + view.wide / 2, view.y + view.tall / 2], plan));
  },
  /** The frame has another size: the same width of the plan is shown. */
  fit() {
    const { view, plan } = this.raw;
    if (view) this.show(moved({ ...view, tall: view.wide / this.proportions }, 0, 0, plan));
  },
  show(view) {
    this.raw.view = view;
    const { x, y, wide, tall } = view;
    this.$root.querySelector("[data-plan]").setAttribute("viewBox", `${x} ${y} ${wide} ${tall}`);
    const metres = scaleOf(view), scale = this.$root.querySelector("[data-scale]");
    scale.textContent = `${metres} m`;
    scale.style.width = `${metres / this.scale}px`;
    this.draw();
  },
  draw(focused) {
    const [eyes, lines, marks] = ["eyes", "lines", "marks"].map((name) => this.$root.querySelector(`[data-${name}]`));
    const { points, chosen, editing } = this.raw, active = document.activeElement?.dataset?.point;
    const how = { view: this.raw.view, scale: this.scale, chosen, editing, wanted: (p) => this.wanted(p) };
    drawPlan({ eyes, lines, marks }, points, how);
    const again = focused || active;
    if (again) marks.querySelector(`[data-point="${CSS.escape(again)}"]`)?.focus({ preventScroll: true });
  },
  wanted({ name, area, kind }) { return `${name} ${area} ${kind}`.toLowerCase().includes(this.raw.filter); },
  filter(e) {
    this.raw.filter = e.target.value.toLowerCase();
    this.draw();
    this.list();
  },
  /** What had fallen silent speaks again. */
  spoke({ data }) {
    const point = this.point(data?.point);
    if (point?.state === "silent") point.state = "rest";
  },
  async again() {
    const told = new Map((await call("pointsNow").catch(() => [])).map((p) => [p.id, p]));
    for (const point of this.raw.points) {
      const now = told.get(point.id);
      if (!now) continue;
      point.now = now.now;
      point.alarm = now.alarm;
      // What had fallen silent when the page was made is so until it is made anew, or something comes.
      point.state = now.lost ? "lost" : now.on ? "on" : point.state === "silent" ? "silent" : "rest";
    }
    if (!this.raw.held) this.draw();
  },
  /** A desk button, from its sheet. */
  async pressed({ target }) {
    const button = target.closest("[data-plan-press]");
    if (!button || !sure(button, button.dataset.asks)) return;
    try {
      const done = await call("press", { places: { button: button.dataset.planPress } });
      toast(t("Pressed “{button}”.", { button: done.pressed }));
    } catch (error) { toast(error.message, { bad: true }); }
  },
  point(id) { return this.raw.points.find((p) => p.id === id); },

  // -- by hand and by key -----------------------------------------------------------------------------------------
  place(e) {
    const box = this.raw.frame.getBoundingClientRect(), { view } = this.raw;
    return [view.x + (e.clientX - box.left) * this.scale, view.y + (e.clientY - box.top) * this.scale];
  },
  wheel(e) {
    e.preventDefault();
    this.zoom(e.deltaY < 0 ? NOTCH : 1 / NOTCH, this.place(e));
  },
  press(e) {
    if (e.target.closest(".plan-tools")) return;
    const mark = e.target.closest("[data-point]"), aim = e.target.closest("[data-aim]");
    const held = { from: this.place(e), at: [e.clientX, e.clientY], moved: false };
    this.raw.held = { ...held, point: mark?.dataset.point, aim: aim?.dataset.aim };
    this.raw.frame.setPointerCapture(e.pointerId);
  },
  drag(e) {
    const { held, editing, view, plan } = this.raw;
    if (!held) return;
    held.moved ||= Math.hypot(e.clientX - held.at[0], e.clientY - held.at[1]) > HALF / 2;
    if (!held.moved) return;
    const [x, y] = this.place(e);
    if (editing && (held.point || held.aim)) this.pull(held, [x, y]);
    else this.show(moved(view, held.from[0] - x, held.from[1] - y, plan));
  },
  release() {
    const { held } = this.raw;
    this.raw.held = null;
    if (!held) return;
    if (held.pulled) this.keep(held.pulled, held.before);
    else if (!held.moved && held.point) this.choose(held.point);
  },
  key(e) {
    const { point: id } = e.target.dataset, { view, plan } = this.raw;
    if (e.key === "Enter" || e.key === " ") { if (id) this.choose(id); else return; }
    else if (e.key === "+" || e.key === "=") this.zoom(NOTCH);
    else if (e.key === "-") this.zoom(1 / NOTCH);
    else if (e.key === "0") this.whole();
    else if (ARROWS[e.key]) {
      const [dx, dy] = ARROWS[e.key];
      if (!this.nudge(e, dx, dy)) this.show(moved(view, dx * view.wide * ARROW, dy * view.tall * ARROW, plan));
    } else if (!this.turn(e)) return;
    e.preventDefault();
  },
  async choose(id) {
    this.raw.chosen = id;
    const point = this.point(id);
    this.draw(id);
    await this.sheet(point);
  },
  goTo(id) {
    const point = this.point(id), { view, plan } = this.raw;
    if (point.x !== null) this.show(centred(view, [point.x, point.y], plan));
    this.choose(id);
  },
  async tell(doing) {
    try {
      await doing();
      return true;
    } catch (error) {
      toast(error.message, { bad: true });
      return false;
    }
  },
  async save(point) {
    const place = point.x === null ? null : [point.x, point.y];
    return this.tell(() => call("placePoint", { places: { point: point.id }, content: { place, ...point.eye } }));
  },
  toggle(e) {
    this.raw.editing = !this.raw.editing;
    e.currentTarget.setAttribute("aria-pressed", String(this.raw.editing));
    this.$root.classList.toggle("placing", this.raw.editing);
    if (this.raw.editing) toast(t("Drag points where they stand. Arrows move one that has the focus; Ctrl+Z undoes."));
    this.draw();
    this.list();
  },
}, placing, side, loading));
