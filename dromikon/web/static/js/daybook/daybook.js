// Daybook: lanes by area over time. Marks above a lane's line are events, below it what the system did.
import { addressOf, call } from "../kit/ask.js";
import { Axis, zoomed } from "../kit/axis.js";
import { draggable, wheeled } from "../kit/canvas.js";
import { component, joined } from "../kit/component.js";
import { on } from "../kit/feed.js";
import { gathered } from "../kit/gather.js";
import { dispatch } from "../kit/keys.js";
import { carried, parameter } from "../kit/page.js";
import { openSheet } from "../kit/sheets.js";
import { wall } from "../kit/times.js";
import { t } from "../kit/words.js";
import { Drawing, LEFT, RIGHT } from "./drawing.js";
import { neighbour } from "./lanes.js";
import { rows } from "./rows.js";

const HOUR = 36e5, SHORTEST = 30e3, LONGEST = 13 * 864e5, MOST_ASKED = 14 * 864e5;
/** So many events are kept until the page asks again. */
const MOST_KEPT = 8000;
/** How long what comes is gathered before the page asks for more, in ms. */
const GATHER = 180;
/** Where more than so many marks lie on one spot, a click zooms in until so many ms are seen. */
const CROWDED = 6, CLOSE = 3e5;

const daybook = () => ({
  span: Number(sessionStorage.getItem("daybook-span")) || HOUR,
  end: Date.now(),
  live: true,
  get livePressed() { return String(this.live); },
  get rangeWords() {
    const end = this.live ? t("now") : wall(this.end, true, true);
    return `${wall(this.end - this.span, true, true)} – ${end}`;
  },
  get recordsHref() {
    const stretch = { start: Math.floor(this.end - this.span), end: Math.ceil(this.end) };
    return addressOf("records", {}, this.live ? { last: Math.round(this.span) } : stretch);
  },
  get middle() { return this.live ? this.end : this.end - this.span / 2; },
  get axis() { return new Axis(this.end - this.span, this.end, LEFT, this.drawing.width - LEFT - RIGHT); },

  init() {
    const canvas = this.$root.querySelector("[data-canvas]");
    const site = { lanes: carried("lanes"), names: carried("point-names"), kinds: carried("kinds") };
    Object.assign(this, { drawing: new Drawing(canvas, site), events: [], runs: [], chosen: null });
    const at = Number(parameter("at"));
    if (at) Object.assign(this, { live: false, end: at + this.span / 2 });
    this.bind(canvas);
    this.hear();
    this.load();
    const open = parameter("open");
    if (open.startsWith("event-")) this.open(open.slice(6));
    this.markSpan();
  },
  hear() {
    setInterval(() => { if (this.live) { this.end = Date.now(); this.draw(); } }, 250);
    document.addEventListener("theme", () => this.draw());
    window.addEventListener("resize", () => this.draw());
    on("event", (m) => this.arrived(m.data));
    this.grown = gathered(() => { this.draw(); this.addRows(); }, GATHER);
    on("run", gathered(() => this.load(), GATHER));
    on("line", gathered(() => this.addLines(), GATHER));
    on("reload", () => this.load());
  },
  bind(canvas) {
    const moved = (end, pixels) => this.moveTo(end - (pixels / this.axis.width) * this.span);
    draggable(canvas, { begin: () => this.end, moved, clicked: (e) => this.click(e), hover: (e) => this.hover(e) });
    wheeled(canvas, 1.25, (factor, x) => this.zoom(factor, this.axis.at(x)));
    canvas.addEventListener("keydown", (e) => dispatch(e, this.acts));
  },

  get acts() {
    const far = this.span * 0.15;
    return {
      earlier: () => this.moveTo(this.end - far),
      later: () => this.moveTo(this.end + far),
      closer: () => this.zoom(0.6, this.middle),
      farther: () => this.zoom(1.6, this.middle),
      live: () => this.goLive(),
      previous: () => this.step(-1),
      next: () => this.step(1),
      open: () => this.chosen && this.open(this.chosen),
    };
  },
  step(way) {
    const next = neighbour(this.runs, this.chosen, way);
    if (!next) return;
    this.chosen = next[4];
    this.say(`${next[1]} · ${this.drawing.names[next[2]] || next[2]} · ${wall(next[3], true, true)}`);
    this.draw();
  },

  // -- where in time -----------------------------------------------------------------------------------------------
  moveTo(end) {
    const now = Date.now();
    Object.assign(this, { end: Math.min(end, now), live: end >= now - this.span * 0.002 });
    this.draw();
    this.soon();
  },
  zoom(factor, around) {
    const { start, end } = zoomed({ start: this.end - this.span, end: this.end }, factor, around, SHORTEST, LONGEST);
    this.span = end - start;
    sessionStorage.setItem("daybook-span", this.span);
    this.markSpan();
    this.moveTo(this.live ? Date.now() : end);
  },
  setSpan(e) { this.zoom(Number(e.target.dataset.span) / this.span, this.middle); },
  markSpan() {
    for (const button of this.$root.querySelectorAll("[data-span]")) {
      button.ariaPressed = String(Math.abs(Number(button.dataset.span) - this.span) < 1000);
    }
  },
  goLive() {
    Object.assign(this, { live: true, end: Date.now() });
    this.load();
  },
  zoomInto(at) {
    Object.assign(this, { live: false, span: Math.max(CLOSE, this.span / 6) });
    this.end = Math.min(Date.now(), at + this.span / 2);
    this.markSpan();
    this.draw();
    this.soon();
  },

  // -- what happened -----------------------------------------------------------------------------------------------
  soon() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.load(), 180);
  },
  /** A little more than is seen, so that moving finds it there. */
  async load() {
    const start = Math.floor(this.end - this.span * 1.3);
    const end = Math.min(Math.ceil(this.end + this.span * 0.3), start + MOST_ASKED);
    this.listStretch();
    const found = await call("marks", { query: { start, end } }).catch(() => null);
    if (!found) return;
    Object.assign(this, { events: found.events, runs: found.runs });
    this.draw();
  },
  arrived({ seq, kind, point, phase, at }) {
    this.events.unshift([seq, kind, point, phase, at, false]);
    this.events.splice(MOST_KEPT);
    this.grown();
  },
  draw() { this.drawing.draw(this.axis, { events: this.events, runs: this.runs, chosen: this.chosen }); },

  hover(e) {
    const spot = this.drawing.under(e);
    const lane = this.drawing.named(e);
    e.target.style.cursor = spot || lane?.id ? "pointer" : "";
    const words = lane?.id ? t("All that happened here in this time: {area}", { area: lane.name }) : "\u00a0";
    this.say(spot ? spot.text : words);
  },
  say(text) { this.$root.querySelector("[data-hover]").textContent = text; },
  click(e) {
    const spot = this.drawing.under(e);
    if (!spot) { this.openLane(this.drawing.named(e)); return; }
    if (spot.count > CROWDED && this.span > CLOSE) this.zoomInto(this.axis.at(spot.x));
    else this.open(spot.event);
  },
  /** A lane's name leads to all that happened there in this time. */
  openLane(lane) {
    if (!lane?.id) return;
    const { start, end } = this.axis;
    location.href = addressOf("records", {}, { area: lane.id, start: Math.floor(start), end: Math.ceil(end) });
  },
  open(event) { openSheet(addressOf("event", { event }), `event-${event}`); },
});

component("daybook", () => joined(daybook(), rows));
