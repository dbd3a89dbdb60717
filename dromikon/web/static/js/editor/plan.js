// The time plan: the rule on one line of axes. Causes lie above it, each step has a row below it.
import { breaks, lay, place, span, ticks } from "./axes.js";
import { grips } from "./grips.js";
import { shape } from "../kit/svg.js";
import { el } from "../form/dom.js";

const ROW = 30, BAR = 12;
export const HEAD = 34;
const MOST_ZOOM = 40;

/** Draws into every [data-track] below a root. `moved(path, value, done)` hears of numbers that are dragged. */
export class TimePlan {
  constructor(root, { moved, limits }) {
    Object.assign(this, { root, moved, limits, plan: null, held: null, focused: "" });
    this.view = { zoom: 1, shift: 0 };
    new ResizeObserver(() => this.draw()).observe(root);
  }

  get head() { return this.root.querySelector("[data-plan]"); }
  get tracks() { return [...this.root.querySelectorAll("svg[data-track]")]; }

  draw() {
    if (!this.plan || !this.head) return;
    this.rows(this.plan.bars.filter((b) => b.above || b.part === "stop"));
    const axis = this.head.querySelector("svg.axis-row"), width = axis.clientWidth;
    if (!width) return;
    // While a number is dragged the line stays as it was, so that the hand stays on it.
    this.scale = this.held || lay(this.plan.axes, width, this.view);
    this.line(axis);
    for (const svg of this.tracks) this.track(svg, this.plan.bars.filter((b) => b.part === svg.dataset.track));
    this.refocus();
  }

  /** What is drawn anew loses the hand that was on it. */
  refocus() {
    if (!this.focused || document.activeElement !== document.body) return;
    this.root.querySelector(`[data-grip="${CSS.escape(this.focused)}"]`)?.focus({ preventScroll: true });
  }

  /** What lies above the line, and the end by itself, have rows of the head. */
  rows(bars) {
    const holder = this.head.querySelector(".plan-rows"), wanted = bars.map((b) => `${b.part} ${b.style}`).join();
    if (holder.dataset.drawn !== wanted) {
      holder.dataset.drawn = wanted;
      holder.replaceChildren(...bars.map((b) => {
        const svg = shape("svg", { "data-track": b.part, "data-style": b.style, class: "track", role: "group" });
        return el("div", { class: "plan-row" }, el("span", { class: "plan-word" }), svg);
      }));
    }
    [...holder.querySelectorAll(".plan-word")].forEach((word, i) => { word.textContent = bars[i].label; });
  }

  line(svg) {
    svg.replaceChildren();
    const axes = new Map(this.plan.axes.map((a) => [a.anchor, a]));
    for (const piece of this.scale.pieces) {
      const x = (s) => place(this.scale, piece.anchor, s);
      svg.append(shape("path", { class: "axis", d: `M${piece.left} ${HEAD - 6}h${piece.width}` }));
      for (const { at, words } of ticks(piece)) {
        svg.append(shape("path", { class: "axis", d: `M${x(at)} ${HEAD - 9}v6` }));
        const zero = at === 0, named = zero ? axes.get(piece.anchor).zero : words;
        const look = { class: zero ? "zero-word" : "tick", x: x(at), y: HEAD - 14, "text-anchor": "middle" };
        svg.append(shape("text", look, named));
      }
    }
    // Below the words.
    this.backdrop(svg, HEAD, HEAD - 11);
  }

  /** What goes through all rows: where an axis is broken, its zero, the moment of the decision. */
  backdrop(svg, height, top = 0) {
    for (const [left, right] of breaks(this.scale)) {
      const box = { x: left + 4, width: right - left - 8, y: top, height: height - top };
      svg.append(shape("rect", { class: "broken", ...box }));
    }
    const upright = (anchor, second, look) => {
      const x = place(this.scale, anchor, second);
      svg.append(shape("path", { class: look, d: `M${x} ${top}V${height}` }));
    };
    if (this.plan.decided > 0) upright("start", this.plan.decided, "decided");
    for (const { anchor } of this.plan.axes) upright(anchor, 0, anchor === "start" ? "zero-line" : "later-line");
  }

  track(svg, bars) {
    const height = svg.clientHeight || ROW;
    svg.replaceChildren();
    this.backdrop(svg, height);
    const shown = svg.dataset.style ? bars.filter((b) => b.style === svg.dataset.style) : bars;
    for (const bar of shown) svg.append(this.bar(bar, height), ...grips(this, bar, height));
  }

  bar(bar, height) {
    const [left, right] = this.ends(bar), look = !bar.above ? "act" : bar.style === "quiet" ? "quiet-bar" : "wait";
    const besides = [bar.asks && "asks", bar.style === "stop" && "stopping"].filter(Boolean);
    const group = shape("g", { class: ["bar", look, ...besides].join(" ") });
    const y = (height - BAR) / 2;
    if (right - left < 3 && !bar.above) {
      group.append(shape("path", { class: "moment", d: `M${left} ${y - 2}l6 8-6 8-6-8z` }));
    } else {
      group.append(shape("rect", { x: left, y, width: Math.max(3, right - left), height: BAR }));
    }
    if (bar.open_end) group.append(shape("path", { class: "onwards", d: `M${right} ${y - 2}l8 8-8 8z` }));
    const ended = right + 5 < this.scale.width;
    const begin = bar.start && (bar.begins || bar.start < 0) ? [left - 5, "end", span(bar.start)] : null;
    const end = bar.end !== bar.start && !bar.open_end && ended ? [right + 6, "start", span(bar.end)] : null;
    const later = bar.end === bar.start && bar.start ? [left + 10, "start", span(bar.start)] : null;
    for (const at of [begin, end, later].filter(Boolean)) {
      group.append(shape("text", { x: at[0], y: y + 10, "text-anchor": at[1], class: "tick" }, at[2]));
    }
    return group;
  }

  /** Left and right of a bar; one with an open end goes on to the end of its axis. */
  ends(bar) {
    const last = this.scale.pieces.filter((p) => p.anchor === bar.anchor).at(-1);
    const left = place(this.scale, bar.anchor, bar.start);
    const right = bar.open_end ? last.left + last.width - 10 : place(this.scale, bar.anchor, bar.end);
    return [left, Math.max(left, right)];
  }

  // -- zoom ----------------------------------------------------------------------------------------------------------

  /** Zoom so that what lies under x stays there. */
  zoomBy(factor, x = 0) {
    const zoom = Math.min(MOST_ZOOM, Math.max(1, this.view.zoom * factor));
    const shift = ((this.view.shift + x) * zoom) / this.view.zoom - x;
    this.look(zoom, shift);
  }
  shiftBy(pixels) { this.look(this.view.zoom, this.view.shift + pixels); }
  fit() { this.look(1, 0); }
  look(zoom, shift) {
    const width = this.scale?.width || 0;
    this.view = { zoom, shift: Math.max(0, Math.min(shift, width * (zoom - 1))) };
    this.draw();
  }
}
