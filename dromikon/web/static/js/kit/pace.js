// How fast pictures come: no faster than this machine paints them, so that nothing urgent waits behind them.

/** The share of time that painting may take before pictures come half as fast, and below which faster again. */
const MUCH = 0.35, LITTLE = 0.08;
/** Looked at so often, in ms; faster again after so many calm looks. */
const WINDOW = 1500, CALM = 6;
const SLOWEST = 8;

export class Pace {
  constructor(now = performance.now()) { Object.assign(this, { divisor: 1, spent: 0, since: now, calm: 0 }); }

  /** Pictures a second, of so many that are wanted. */
  of(rate) { return Math.max(1, Math.floor(rate / this.divisor)); }

  /** A picture was painted in so many ms. Returns whether the pace is another one from now on. */
  took(ms, now = performance.now()) {
    this.spent += ms;
    const passed = now - this.since;
    if (passed < WINDOW) return false;
    const share = this.spent / passed;
    Object.assign(this, { spent: 0, since: now });
    return this.judge(share);
  }

  judge(share) {
    const before = this.divisor;
    this.calm = share < LITTLE ? this.calm + 1 : 0;
    if (share > MUCH) this.divisor = Math.min(SLOWEST, before * 2);
    else if (this.calm >= CALM) Object.assign(this, { divisor: Math.max(1, before / 2), calm: 0 });
    return this.divisor !== before;
  }
}
