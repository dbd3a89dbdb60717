// Playback from packed frames of one or several cameras in step: fetched in stretches a little ahead of time, and shown
// when their moment comes. Backwards a stretch is fetched whole and shown from its end.
import { addressOf } from "../kit/ask.js";
import { paint, read } from "../kit/frames.js";
import { t } from "../kit/words.js";

export const RATE = 10;
/** How wide pictures are: one alone, a few, and many. */
const WIDTHS = [[1, 960], [4, 640], [9, 480]];
/** A stretch is fetched at a time, up to so many ms behind now; a shorter one waits until there is more. */
const STRETCH = 20e3, BEHIND = 300, SHORTEST = 400, BACKWARDS = 6e3;
/** Who is later than so many ms goes on from where it is. */
const LATE = 1500;
const pause = (ms) => new Promise((resolve) => { setTimeout(resolve, ms); });

export class Player {
  /** `screens` has the canvases; `at` is told each picture's instant, `ended` why it stopped by itself. */
  constructor(screens, { at, ended, coverage }) {
    Object.assign(this, { __v_skip: true, screens, told: at, ended, coverage, stop: null, asked: 0 });
  }

  widthFor(count) { return WIDTHS.find(([most]) => count <= most)[1]; }

  /** One picture of each, unless others are wanted by the time that they come; each that there is none of says why. */
  async still(cameras, at) {
    const mine = (this.asked += 1), width = this.widthFor(cameras.length);
    const one = async (camera, index) => {
      const answer = await fetch(addressOf("picture", { camera }, { at: Math.round(at), width }));
      if (mine !== this.asked) return "";
      if (!answer.ok) { this.screens.blank(index); return answer.text(); }
      await paint(this.screens.canvas(index), await answer.blob());
      return "";
    };
    const problems = await Promise.all(cameras.map(one));
    problems.forEach((problem, index) => this.screens.say(index, problem));
    if (cameras.length === 1 && problems[0]) throw new Error(problems[0]);
  }

  halt() {
    this.stop?.abort();
    this.stop = null;
  }

  /** `speed`: how many times as fast as it happened; below 0 backwards. */
  async play(cameras, from, speed) {
    this.halt();
    this.asked += 1;
    const stop = (this.stop = new AbortController());
    const pace = { speed, base: null, got: 0 };
    const next = speed < 0 ? (at) => this.backwards(cameras, at, pace, stop.signal)
      : (at) => this.stretch(cameras, at, pace, stop.signal);
    try {
      for (let at = from; !stop.signal.aborted; ) at = await next(at);
    } catch (error) {
      if (error.name !== "AbortError") this.finish(error.message);
    }
  }

  /** So many pictures a second of what happened that about ten a second are seen. */
  query(cameras, start, end, speed) {
    const rate = Math.max(1, Math.min(25, Math.round(RATE / Math.abs(speed))));
    const width = this.widthFor(cameras.length);
    return { cameras: cameras.join(","), start: Math.round(start), end: Math.round(end), rate, width };
  }

  /** Plays one stretch; answers where the next begins. */
  async stretch(cameras, start, pace, signal) {
    const end = Math.min(start + STRETCH * Math.max(1, pace.speed), Date.now() - BEHIND);
    if (end - start < SHORTEST) {
      await pause(300);
      return start;
    }
    pace.got = 0;
    const url = addressOf("stretch", {}, this.query(cameras, start, end, pace.speed));
    await read(url, (index, at, blob) => this.show(index, at, blob, pace, signal), signal);
    if (pace.got || signal.aborted) return end;
    const next = this.coverage().find((c) => c.start > end);
    if (!next) throw new Error(t("The recording ends here."));
    pace.base = null;
    return next.start;
  }

  /** Plays one stretch from its end; answers where the one before ends. What comes before it is fetched meanwhile. */
  async backwards(cameras, end, pace, signal) {
    const start = Math.max(0, end - BACKWARDS * Math.max(1, -pace.speed));
    const ahead = pace.ahead?.end === end ? pace.ahead.found : null;
    const pictures = await (ahead || this.fetched(cameras, start, end, pace, signal));
    const before = Math.max(0, start - (end - start));
    pace.ahead = { end: start, found: this.fetched(cameras, before, start, pace, signal) };
    pace.ahead.found.catch(() => {});
    for (const { index, at, blob } of pictures.reverse()) {
      await this.show(index, at, blob, pace, signal);
      if (signal.aborted) return start;
    }
    if (pictures.length) return start;
    const next = this.coverage().filter((c) => c.end < start).at(-1);
    if (!next) throw new Error(t("The recording begins here."));
    pace.base = null;
    return next.end;
  }

  async fetched(cameras, start, end, pace, signal) {
    const found = [];
    const url = addressOf("stretch", {}, this.query(cameras, start, end, pace.speed));
    await read(url, (index, at, blob) => { found.push({ index, at, blob }); }, signal);
    return found;
  }

  async show(index, at, blob, pace, signal) {
    const now = performance.now();
    pace.got += 1;
    pace.base = pace.base || { wall: now, at };
    const wait = pace.base.wall + (at - pace.base.at) / pace.speed - now;
    if (wait > 0) await pause(wait);
    else if (wait < -LATE) pace.base = { wall: now, at };
    if (signal.aborted) return;
    await paint(this.screens.canvas(index), blob);
    this.screens.say(index, "");
    this.told(at, index);
  }

  finish(why) {
    this.halt();
    this.ended(why);
  }
}
