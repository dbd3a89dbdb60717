// Pictures in motion: reading packed frames and painting them.
import { addressOf } from "./ask.js";
import { Pace } from "./pace.js";
import { Unpacker } from "./packed.js";
import { t } from "./words.js";

/** Read packed frames from an address and hand each to `take(camera, at, blob)`. Ends when the stream does. */
export async function read(url, take, signal) {
  const answer = await fetch(url, { signal });
  if (!answer.ok) throw new Error(refused(answer.status));
  const reader = answer.body.getReader();
  const unpacker = new Unpacker();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    for (const { camera, at, jpeg } of unpacker.take(value)) {
      await take(camera, at, new Blob([jpeg], { type: "image/jpeg" }));
    }
  }
}

function refused(status) {
  if (status === 404) return t("There is no recording at that moment.");
  return t("The pictures cannot be fetched ({status}).", { status });
}

export const paint = (canvas, blob) => paintAll([canvas], blob);

/** Decode once, paint wherever it is wanted and on screen. */
async function paintAll(canvases, blob) {
  const wanted = canvases.filter(onScreen);
  if (!wanted.length) return;
  const picture = await createImageBitmap(blob);
  for (const canvas of wanted) {
    if (canvas.width !== picture.width) Object.assign(canvas, { width: picture.width, height: picture.height });
    canvas.getContext("2d").drawImage(picture, 0, 0);
  }
  picture.close();
}

function onScreen(canvas) {
  const box = canvas.getBoundingClientRect();
  return box.width > 0 && box.bottom > 0 && box.top < window.innerHeight;
}

/** A camera without a picture for so long, in ms, has none. */
const SILENT = 5_000;

/** Live pictures of several cameras over one connection, painted on canvases; paused while the page is hidden. */
export class Live {
  constructor(rate = 8, width = 480) {
    Object.assign(this, { rate, width, canvases: new Map(), stop: null, came: new Map(), pace: new Pace() });
    document.addEventListener("visibilitychange", () => { this.came.clear(); this.restart(); });
    window.addEventListener("pagehide", () => this.stop?.abort());
  }

  /** Show exactly these cameras: a Map of camera -> list of canvases. */
  show(canvases) {
    const before = this.canvases, names = (some) => [...some.keys()].join();
    this.canvases = canvases;
    for (const camera of canvases.keys()) if (!before.has(camera)) this.came.delete(camera);
    if (names(canvases) !== names(before) || !this.stop) this.restart();
    this.sayWhatIsMissing();
  }

  /** Where no picture comes, it is said: a black picture looks like a dark night. */
  sayWhatIsMissing() {
    const now = Date.now();
    for (const [camera, canvases] of this.canvases) {
      if (!this.came.has(camera)) this.came.set(camera, now);
      const missing = !document.hidden && now - this.came.get(camera) > SILENT;
      for (const { parentElement: place } of canvases) {
        if (missing) place.dataset.none = t("no picture");
        else delete place.dataset.none;
      }
    }
  }

  /** Many cameras at once are an overview: together they get as many pictures as two would, if this machine can. */
  rateFor(count) { return this.pace.of(Math.max(2, Math.min(this.rate, Math.floor((2 * this.rate) / count)))); }

  async restart() {
    this.stop?.abort();
    this.stop = null;
    if (document.hidden || !this.canvases.size) return;
    const stop = (this.stop = new AbortController());
    const cameras = [...this.canvases.keys()];
    const rate = this.rateFor(cameras.length);
    const url = addressOf("live", {}, { rate, width: this.width, cameras: cameras.join(",") });
    const show = async (index, at, blob) => {
      const began = performance.now();
      this.came.set(cameras[index], Date.now());
      await paintAll(this.canvases.get(cameras[index]) || [], blob).catch(() => {});
      if (this.pace.took(performance.now() - began) && !stop.signal.aborted) this.restart();
    };
    try {
      await read(url, show, stop.signal);
    } catch (error) {
      if (error.name === "AbortError") return;
    }
    if (this.stop === stop) setTimeout(() => this.stop === stop && this.restart(), 2000);
  }
}
