// The archive's time axis: what of it is in view, what lies on it, and where the next thing lies.
import { addressOf, call } from "../kit/ask.js";
import { openSheet } from "../kit/sheets.js";
import { toast } from "../kit/toasts.js";
import { wall } from "../kit/times.js";
import { t } from "../kit/words.js";
import { drawStrip } from "./strip.js";

/** A jump comes to so long before what it leads to, in ms. */
const BEFORE = 3e3;
/** Thumbnails are asked for once the pointer has rested for so long, in ms. */
const REST = 130;

export const axis = {
  look(from, to) {
    Object.assign(this, { from, to });
    this.draw();
    this.soon();
  },
  keepInView() {
    const half = (this.to - this.from) / 2;
    if (this.at < this.from || this.at > this.to) this.look(this.at - half, this.at + half);
  },
  soon() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.load(), 150);
  },
  async load() {
    const pad = (this.to - this.from) * 0.5, asked = this.cameras;
    const start = Math.max(0, Math.round(this.from - pad)), end = Math.round(this.to + pad);
    const ask = async (name, take) => {
      const found = await call(name, { query: { camera: asked, start, end } }).catch(() => null);
      if (!found || String(asked) !== String(this.cameras)) return;
      take(found);
      this.draw();
    };
    // A recorder may take its time, or be away: what happened does not wait for it.
    await Promise.all([
      ask("archiveAxis", (marks) => { this.marks = marks; }),
      ask("archiveCurves", (curves) => { this.curves = curves; }),
      ask("archiveRecorded", (recorded) => {
        this.recorded = recorded;
        this.problem = recorded.find((c) => c.error)?.error || this.problem;
      }),
    ]);
  },
  draw() {
    const span = this.to - this.from;
    // Playback turns the page before it reaches its end.
    if (this.playing && this.at > this.to - span * 0.1) {
      Object.assign(this, { from: this.from + span * 0.5, to: this.to + span * 0.5 });
      this.soon();
    } else if (this.playing && this.at < this.from + span * 0.02) {
      Object.assign(this, { from: this.from - span * 0.5, to: this.to - span * 0.5 });
      this.soon();
    }
    Object.assign(this, drawStrip(this.canvas, this, this.names));
  },

  // -- under the pointer ------------------------------------------------------------------------------------------
  under({ offsetX: x, offsetY: y }) {
    const within = (at, start, length, room) => at >= start - room && at <= start + length + room;
    const near = this.spots.filter((s) => within(x, s.x, s.wide, 4) && within(y, s.y, s.tall, 3));
    return near.sort((a, b) => Math.abs(a.x - x) - Math.abs(b.x - x))[0];
  },
  hover(e) {
    const spot = this.under(e), at = this.axis.at(e.offsetX);
    this.canvas.style.cursor = spot?.mark ? "pointer" : "";
    this.hovered = `${wall(at, true, true)}${spot ? ` · ${spot.words}` : ""}`;
    clearTimeout(this.rest);
    this.rest = setTimeout(() => this.thumbnail(at, e.offsetX), REST);
  },
  leave() {
    clearTimeout(this.rest);
    this.hovered = "";
    this.$root.querySelector("[data-thumb]").hidden = true;
  },
  thumbnail(at, x) {
    const place = this.$root.querySelector("[data-thumb]"), img = place.querySelector("img");
    const query = { at: Math.round(at), width: 240 };
    img.onload = () => { place.hidden = !this.hovered; };
    img.onerror = () => { place.hidden = true; };
    img.src = addressOf("picture", { camera: this.cameras[0] }, query);
    const half = 120;
    place.style.left = `${Math.max(half, Math.min(this.canvas.clientWidth - half, x)) - half}px`;
  },
  /** A mark leads to what it is; all else is a moment to go to. */
  click(e) {
    const mark = this.under(e)?.mark;
    if (!mark || mark.sort === "recorded") { this.seek(this.axis.at(e.offsetX)); return; }
    this.seek(mark.at - BEFORE);
    if (mark.sort === "event") openSheet(addressOf("event", { event: mark.ref }), `event-${mark.ref}`);
    if (mark.sort !== "alarm") return;
    toast(mark.words, { to: addressOf("moment", { run: mark.ref }), label: t("Its moment") });
  },

  // -- the next of its sort ---------------------------------------------------------------------------------------
  async jump(way) {
    // From where the last jump came to, what it led to is not the next thing.
    const from = Math.round(this.jumped && Math.abs(this.jumped - BEFORE - this.at) < 50 ? this.jumped : this.at);
    const query = { camera: this.cameras, at: from, way, what: this.sought };
    const { at } = await call("archiveNext", { query }).catch(() => ({ at: null }));
    if (at === null) { toast(way === "on" ? t("Nothing comes after this.") : t("Nothing came before this.")); return; }
    this.seek(at - BEFORE);
    this.jumped = at;
  },
  jumpBack() { this.jump("back"); },
  jumpOn() { this.jump("on"); },
  setSought({ target }) { this.sought = target.value; },
};
