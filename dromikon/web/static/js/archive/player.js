// Playback from packed frames: fetched in stretches a little ahead of time, and shown when their moment comes.
import { addressOf } from "../kit/ask.js";
import { paint, read } from "../kit/frames.js";
import { t } from "../kit/words.js";

export const RATE = 10;
const WIDTH = 960;
/** A stretch is fetched at a time, up to so many ms behind now; a shorter one waits until there is more. */
const STRETCH = 20e3, BEHIND = 300, SHORTEST = 400;
/** Who is later than so many ms goes on from where it is. */
const LATE = 1500;
const pause = (ms) => new Promise((resolve) => { setTimeout(resolve, ms); });

export class Player {
  /** `at` is told each picture's instant, `ended` why it stopped by itself. */
  constructor(canvas, { at, ended, coverage }) {
    Object.assign(this, { canvas, told: at, ended, coverage, stop: null, asked: 0 });
  }

  /** One picture, unless another one is wanted by the time that it comes. Throws where there is none. */
  async still(camera, at) {
    const mine = (this.asked += 1);
    const answer = await fetch(addressOf("picture", { camera }, { at: Math.round(at), width: WIDTH }));
    if (mine !== this.asked) return;
    if (!answer.ok) {
      this.blank();
      throw new Error(await answer.text());
    }
    await paint(this.canvas, await answer.blob());
  }

  blank() {
    const pen = this.canvas.getContext("2d");
    pen.fillStyle = "#0b0d10";
    pen.fillRect(0, 0, this.canvas.width, this.canvas.height);
  }

  halt() {
    this.stop?.abort();
    this.stop = null;
  }

  async play(camera, from, speed) {
    this.halt();
    this.asked += 1;
    const stop = (this.stop = new AbortController());
    const pace = { speed, base: null, got: 0 };
    try {
      for (let fetched = from; !stop.signal.aborted; ) fetched = await this.stretch(camera, fetched, pace, stop.signal);
    } catch (error) {
      if (error.name !== "AbortError") this.finish(error.message);
    }
  }

  /** Plays one stretch; answers where the next begins. */
  async stretch(camera, start, pace, signal) {
    const end = Math.min(start + STRETCH, Date.now() - BEHIND);
    if (end - start < SHORTEST) {
      await pause(300);
      return start;
    }
    pace.got = 0;
    const query = { start: Math.round(start), end: Math.round(end), rate: RATE, width: WIDTH };
    await read(addressOf("frames", { camera }, query), (_, at, blob) => this.show(at, blob, pace, signal), signal);
    if (pace.got || signal.aborted) return end;
    const next = this.coverage().find((c) => c.start > end);
    if (!next) throw new Error(t("The recording ends here."));
    pace.base = null;
    return next.start;
  }

  async show(at, blob, pace, signal) {
    const now = performance.now();
    pace.got += 1;
    pace.base = pace.base || { wall: now, at };
    const wait = pace.base.wall + (at - pace.base.at) / pace.speed - now;
    if (wait > 0) await pause(wait);
    else if (wait < -LATE) pace.base = { wall: now, at };
    if (signal.aborted) return;
    await paint(this.canvas, blob);
    this.told(at);
  }

  finish(why) {
    this.halt();
    this.ended(why);
  }
}
