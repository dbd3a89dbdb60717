// A week that is painted: a drag makes a rectangle of quarter hours over days; the keyboard has a cursor.
import { shape } from "../kit/svg.js";
import { t } from "../kit/words.js";
import { DAY, DAYS, QUARTER, inside, shown, stretches } from "./spans.js";

const MOVES = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] };
const IN_A_DAY = DAY / QUARTER;

export class Painter {
  /** `tracks`: seven SVGs, Monday first; `paint(days, from, to, on)` is called with day numbers and minutes. */
  constructor(tracks, { sun, paint, names }) {
    Object.assign(this, { tracks, sun, paint, names, week: {}, cursor: 36, anchor: null });
    tracks.forEach((track, day) => {
      track.addEventListener("pointerdown", (e) => this.press(day, e));
      track.addEventListener("keydown", (e) => this.key(day, e));
      track.addEventListener("focus", () => this.mark(day, day, this.cursor, this.cursor, "cursor"));
      track.addEventListener("blur", () => this.unmark());
    });
  }

  show(week) {
    this.week = week;
    this.tracks.forEach((track, day) => {
      track.replaceChildren(...grid(), ...stretches(week, day, this.sun).map(bar));
      const words = shown(week[DAYS[day]]) || t("closed");
      track.setAttribute("aria-label", `${this.names[day]}: ${words}`);
    });
    const focused = this.tracks.indexOf(document.activeElement);
    if (focused >= 0) this.mark(focused, focused, this.cursor, this.cursor, "cursor");
  }

  press(day, down) {
    if (down.button) return;
    down.preventDefault();
    const track = this.tracks[day], first = this.quarter(track, down);
    track.focus({ preventScroll: true });
    track.setPointerCapture(down.pointerId);
    const on = !inside(this.week, day, first * QUARTER), look = on ? "more" : "less";
    let last = [day, first];
    const moved = (e) => {
      last = [this.dayAt(e), this.quarter(track, e)];
      this.mark(day, last[0], first, last[1], look);
    };
    const done = () => {
      track.removeEventListener("pointermove", moved);
      this.unmark();
      this.cursor = last[1];
      this.give(day, last[0], first, last[1], on);
    };
    const left = () => { track.removeEventListener("pointermove", moved); this.unmark(); };
    this.mark(day, day, first, first, look);
    track.addEventListener("pointermove", moved);
    track.addEventListener("lostpointercapture", left, { once: true });
    track.addEventListener("pointerup", done, { once: true });
    track.addEventListener("pointercancel", () => track.removeEventListener("pointerup", done), { once: true });
  }

  key(day, e) {
    const move = MOVES[e.key];
    if (move) {
      e.preventDefault();
      const by = move[1] * (e.ctrlKey ? 4 : 1);
      if (e.shiftKey && by) return this.extend(day, by);
      this.cursor = Math.max(0, Math.min(IN_A_DAY - 1, this.cursor + by));
      const to = Math.max(0, Math.min(6, day + move[0]));
      if (to === day) this.mark(day, day, this.cursor, this.cursor, "cursor");
      else this.tracks[to].focus();
    } else if (e.key === " ") {
      e.preventDefault();
      this.give(day, day, this.cursor, this.cursor, !inside(this.week, day, this.cursor * QUARTER));
    }
    return undefined;
  }

  /** With shift, the cursor paints what it passes: as the quarter it stands on is. */
  extend(day, by) {
    const on = inside(this.week, day, this.cursor * QUARTER), from = this.cursor;
    this.cursor = Math.max(0, Math.min(IN_A_DAY - 1, this.cursor + by));
    this.give(day, day, from, this.cursor, on);
  }

  give(day, otherDay, one, other, on) {
    const [first, last] = [Math.min(day, otherDay), Math.max(day, otherDay)];
    const days = DAYS.map((_, i) => i).filter((i) => i >= first && i <= last);
    this.paint(days, Math.min(one, other) * QUARTER, (Math.max(one, other) + 1) * QUARTER, on);
  }

  quarter(track, e) {
    const box = track.getBoundingClientRect();
    return Math.max(0, Math.min(IN_A_DAY - 1, Math.floor(((e.clientX - box.left) / box.width) * IN_A_DAY)));
  }

  dayAt(e) {
    const over = this.tracks.findIndex((track) => e.clientY < track.getBoundingClientRect().bottom);
    return over < 0 ? 6 : over;
  }

  mark(day, otherDay, one, other, look) {
    this.unmark();
    const [from, to] = [Math.min(one, other) * QUARTER, (Math.max(one, other) + 1) * QUARTER];
    for (let i = Math.min(day, otherDay); i <= Math.max(day, otherDay); i += 1) {
      this.tracks[i].append(shape("rect", { class: `mark ${look}`, x: from, y: 1, width: to - from, height: 22 }));
    }
    this.tracks[day].dispatchEvent(new CustomEvent("told", { bubbles: true, detail: { from, to, day } }));
  }

  unmark() { for (const track of this.tracks) track.querySelector(".mark")?.remove(); }
}

const grid = () => [
  shape("rect", { class: "day", width: DAY, height: 24 }),
  ...Array.from({ length: 23 }, (_, i) => shape("line", {
    class: (i + 1) % 6 ? "hour" : "hour main", x1: (i + 1) * 60, x2: (i + 1) * 60, y1: 0, y2: 24,
  })),
];

function bar({ from, to, bySun, tail }) {
  const look = `open${bySun ? " by-sun" : ""}${tail ? " tail" : ""}`;
  return shape("rect", { class: look, x: from, y: 3, width: Math.max(0, to - from), height: 18 });
}
