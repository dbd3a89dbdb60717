// Listening at a place: one camera at a time, as telephones have it (mu-law, 8,000 samples a second).
import { addressOf } from "../kit/ask.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

const RATE = 8000;
/** What came is played so much later, in s, so that a late packet leaves no hole; more behind than that is left out. */
const AHEAD = 0.25, BEHIND = 1.5;
/** Each byte as a sample from -1 to 1 (ITU-T G.711, table 2a). */
export const SAMPLES = Float32Array.from({ length: 256 }, (_, byte) => {
  const coded = ~byte & 255, size = ((((coded & 15) << 3) + 132) << ((coded >> 4) & 7)) - 132;
  return (coded & 128 ? -size : size) / 32768;
});

class Ear {
  constructor() { Object.assign(this, { audio: null, camera: "", stop: null, due: 0, level: 0 }); }

  /** Begin to listen at a camera, or end it there. `changed` is told whenever that changes by itself. */
  turn(camera, changed) {
    const ends = this.camera === camera;
    this.end();
    if (!ends) this.begin(camera, changed);
    changed();
  }

  end() {
    this.stop?.abort();
    Object.assign(this, { camera: "", stop: null, level: 0 });
  }

  async begin(camera, changed) {
    const stop = (this.stop = new AbortController());
    this.camera = camera;
    this.audio = this.audio || new AudioContext();
    this.audio.resume();
    this.due = 0;
    let why = t("Nothing more is heard there.");
    try {
      const answer = await fetch(addressOf("listen", { camera }), { signal: stop.signal });
      if (!answer.ok) throw new Error(await answer.text());
      const reader = answer.body.getReader();
      for (;;) {
        const { done, value } = await reader.read();
        if (done) break;
        this.play(value);
      }
    } catch (error) {
      if (error.name === "AbortError") return;
      why = error.message;
    }
    if (this.stop !== stop) return;
    this.end();
    toast(why, { bad: true });
    changed();
  }

  play(bytes) {
    const now = this.audio.currentTime;
    this.level = loudness(bytes);
    if (this.due > now + BEHIND) return;
    if (this.due < now) this.due = now + AHEAD;
    const samples = this.audio.createBuffer(1, bytes.length, RATE);
    samples.getChannelData(0).set(Array.from(bytes, (byte) => SAMPLES[byte]));
    const source = this.audio.createBufferSource();
    source.buffer = samples;
    source.connect(this.audio.destination);
    source.start(this.due);
    this.due += bytes.length / RATE;
  }
}

/** From 0 to 1: the root of the mean square, so that one sees that there is sound before one hears it. */
function loudness(bytes) {
  const sum = bytes.reduce((total, byte) => total + SAMPLES[byte] ** 2, 0);
  return Math.min(1, 3 * Math.sqrt(sum / Math.max(1, bytes.length)));
}

export const ear = new Ear();

/** Buttons of a page say at which camera one listens, and how loud it is there. */
export function hearListening(root) {
  root.addEventListener("click", (e) => {
    const button = e.target.closest("[data-listen]");
    if (button) ear.turn(button.dataset.listen, () => showListening(root));
  });
  setInterval(() => { if (ear.camera || shown) showListening(root); }, 150);
}

let shown = false;
function showListening(root) {
  shown = Boolean(ear.camera);
  for (const button of root.querySelectorAll("[data-listen]")) {
    const on = Boolean(ear.camera) && button.dataset.listen === ear.camera;
    button.ariaPressed = String(on);
    button.style.setProperty("--loud", on ? ear.level.toFixed(2) : "0");
  }
}
