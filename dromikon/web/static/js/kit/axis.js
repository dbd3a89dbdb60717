// The time axis: the same everywhere. Left to right, the event at a vertical rule called zero.
import { day, offset, wall } from "./times.js";

const DAY = 864e5;
const STEPS = [1e3, 2e3, 5e3, 1e4, 3e4, 6e4, 12e4, 3e5, 6e5, 18e5, 36e5, 72e5, 216e5, 432e5, DAY];

/** A mapping between time and pixels, with ticks that fall on round times of the site's day. */
export class Axis {
  constructor(start, end, left, width) { Object.assign(this, { start, end, left, width }); }

  x(at) { return this.left + ((at - this.start) / (this.end - this.start)) * this.width; }
  at(x) { return this.start + ((x - this.left) / this.width) * (this.end - this.start); }

  /** {step, found}: round times with at least `room` pixels between them. */
  ticks(room = 86) {
    const wanted = ((this.end - this.start) / this.width) * room;
    const step = STEPS.find((s) => s >= wanted) || DAY;
    const shift = offset(this.start);
    const found = [];
    for (let at = Math.ceil((this.start + shift) / step) * step - shift; at <= this.end; at += step) found.push(at);
    return { step, found };
  }

  label(at, step) {
    const midnight = (at + offset(at)) % DAY === 0;
    return midnight || step >= DAY ? day(at) : wall(at, false, step < 6e4);
  }
}

/** A stretch of time that is moved and zoomed: it keeps to its shortest and longest, and what is pointed at stays. */
export function zoomed({ start, end }, factor, around, shortest, longest) {
  const span = Math.max(shortest, Math.min(longest, (end - start) * factor));
  const share = (around - start) / (end - start);
  return { start: around - share * span, end: around + (1 - share) * span };
}
