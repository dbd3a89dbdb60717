// The time axis: the same everywhere. Left to right, the event at a vertical rule called zero.
"use strict";

(() => {
  const STEPS = [1e3, 2e3, 5e3, 1e4, 3e4, 6e4, 12e4, 3e5, 6e5, 18e5, 36e5, 72e5, 216e5, 432e5, 864e5];

  /** Colours of the theme, for canvases. */
  function theme() {
    const style = getComputedStyle(document.documentElement);
    const names = ["paper", "sheet", "ink", "quiet", "line", "line-strong", "own", "good", "wait", "wait-fill", "alert", "lane", "raised"];
    return Object.fromEntries(names.map((n) => [n.replace("-", "_"), style.getPropertyValue(`--${n}`).trim()]));
  }

  /** A mapping between time and pixels, with ticks that fall on round times of the site's day. */
  class Axis {
    constructor(start, end, left, width) { Object.assign(this, { start, end, left, width }); }
    x(at) { return this.left + ((at - this.start) / (this.end - this.start)) * this.width; }
    at(x) { return this.start + ((x - this.left) / this.width) * (this.end - this.start); }
    ticks(room = 86) {
      const wanted = ((this.end - this.start) / this.width) * room;
      const step = STEPS.find((s) => s >= wanted) || 864e5;
      const shift = offset(this.start);
      const found = [];
      for (let at = Math.ceil((this.start + shift) / step) * step - shift; at <= this.end; at += step) found.push(at);
      return { step, found };
    }
    label(at, step) {
      if (step >= 864e5) return dromikon.wall(at, true, false).split(",")[0];
      const midnight = (at + offset(at)) % 864e5 === 0;
      return midnight ? dromikon.wall(at, true, false).split(",")[0] : dromikon.wall(at, false, step < 6e4);
    }
  }

  const offsets = new Map();
  /** How far the site's wall clock is ahead of UTC, in ms. */
  function offset(at) {
    const hour = Math.floor(at / 36e5);
    if (!offsets.has(hour)) {
      const zone = document.body.dataset.zone || "UTC";
      const parts = new Intl.DateTimeFormat("en-GB", { timeZone: zone, year: "numeric", month: "numeric", day: "numeric", hour: "numeric", minute: "numeric", hourCycle: "h23" }).formatToParts(hour * 36e5);
      const p = Object.fromEntries(parts.map((x) => [x.type, Number(x.value)]));
      offsets.set(hour, Date.UTC(p.year, p.month - 1, p.day, p.hour, p.minute) - hour * 36e5);
    }
    return offsets.get(hour);
  }

  /** A canvas sized to its box, sharp on every screen. */
  function prepare(canvas, height) {
    const ratio = window.devicePixelRatio || 1;
    const width = canvas.clientWidth;
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
    const pen = canvas.getContext("2d");
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    pen.clearRect(0, 0, width, height);
    pen.font = '12px "Atkinson", sans-serif';
    return { pen, width };
  }

  window.dromikonAxis = { Axis, theme, prepare };
})();
