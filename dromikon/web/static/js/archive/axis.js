// The archive's time axis: what of it is in view, and what lies on it.
import { call } from "../kit/ask.js";
import { drawStrip } from "./strip.js";

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
    const pad = (this.to - this.from) * 0.5, places = { camera: this.camera };
    const query = { start: Math.max(0, Math.round(this.from - pad)), end: Math.round(this.to + pad) };
    const ask = (name) => call(name, { places, query }).catch(() => null);
    const [axis, recorded] = await Promise.all([ask("axis"), ask("coverage")]);
    if (axis) Object.assign(this, axis);
    if (recorded) this.coverage = recorded.stretches;
    if (recorded?.error) this.problem = recorded.error;
    this.draw();
  },
  draw() {
    const span = this.to - this.from;
    // Playback turns the page before it reaches its end.
    if (this.playing && this.at > this.to - span * 0.1) {
      Object.assign(this, { from: this.from + span * 0.5, to: this.to + span * 0.5 });
      this.soon();
    }
    this.axis = drawStrip(this.canvas, this);
  },
};
