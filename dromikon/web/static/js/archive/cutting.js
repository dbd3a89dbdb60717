// The part that clips, bookmarks and cases are made of: chosen on the axis, from here to there; else that of the opened
// bookmark, or what lies around the moment that is shown.
import { wall } from "../kit/times.js";
import { t } from "../kit/words.js";

/** Around a moment: from so long before it until so long after it, in ms. */
const BEFORE = 10e3, AFTER = 20e3;

export const cutting = {
  cutFrom: null, cutTo: null,

  get hasCut() { return this.cutFrom !== null || this.cutTo !== null; },
  get cut() {
    const whole = this.cutFrom !== null && this.cutTo !== null;
    return whole ? { start: Math.round(this.cutFrom), end: Math.round(this.cutTo) } : null;
  },
  get around() { return { start: Math.round(this.at - BEFORE), end: Math.round(this.at + AFTER) }; },
  get part() { return this.cut || this.stretch || this.around; },
  get cutWords() {
    if (!this.hasCut) return "";
    const { cutFrom: from, cutTo: to } = this, shown = (at) => (at === null ? "…" : wall(at, false, true));
    const long = this.cut ? t(", {n} s", { n: ((to - from) / 1000).toFixed(0) }) : "";
    return `${shown(from)} – ${shown(to)}${long}${this.gapWords}`;
  },
  /** Of which cameras something is missing there, said before anything is made of it. */
  get gapWords() {
    if (!this.cut) return "";
    const gaps = this.recorded.filter((one) => !one.error && !covers(one.stretches, this.cut));
    const names = gaps.map(({ camera }) => this.names[camera] || camera).join(", ");
    return names ? ` · ${t("not all of it is recorded: {cameras}", { cameras: names })}` : "";
  },

  fromHere() {
    this.cutFrom = this.at;
    if (this.cutTo !== null && this.cutTo <= this.at) this.cutTo = null;
    this.draw();
  },
  toHere() {
    this.cutTo = this.at;
    if (this.cutFrom !== null && this.cutFrom >= this.at) this.cutFrom = null;
    this.draw();
  },
  clearCut() {
    Object.assign(this, { cutFrom: null, cutTo: null });
    this.draw();
  },
};

/** Whether recordings leave no gap in a part; two that are less than a second apart are one. */
export function covers(stretches, { start, end }) {
  let reached = start;
  for (const one of [...stretches].sort((a, b) => a.start - b.start)) {
    if (one.start <= reached + 1000) reached = Math.max(reached, one.end);
  }
  return reached >= end - 1000;
}
