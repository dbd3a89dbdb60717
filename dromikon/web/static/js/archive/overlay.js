// What was seen in the picture, at any past moment: boxes with classes, and where detectors watch.
import { call } from "../kit/ask.js";
import { boxes } from "../kit/boxes.js";
import { now } from "../kit/clock.js";
import { shape } from "../kit/svg.js";
import { labelAt, outline } from "../sources/shape.js";

/** What was seen is fetched for so long at a time; a picture shows the last of it that is no older than that, in ms. */
const STRETCH = 60_000, OLDEST = 700;

export class Overlay {
  constructor(place, detectors) {
    Object.assign(this, { place, detectors, on: false, camera: "", known: new Map(), at: 0 });
  }

  turn(on) {
    this.on = on;
    this.place.toggleAttribute("hidden", !on);
    if (on) this.show(this.camera, this.at);
  }

  async show(camera, at) {
    if (camera !== this.camera) this.known.clear();
    Object.assign(this, { camera, at });
    if (!this.on || !camera) return;
    const start = Math.floor(at / STRETCH) * STRETCH;
    const seen = await this.stretch(camera, start);
    if (this.camera !== camera || this.at !== at) return;
    this.place.replaceChildren(...this.detectors.map(watched), ...boxes(lastBefore(seen, at)));
  }

  /** Asked once; what goes on just now is asked again. */
  async stretch(camera, start) {
    const fresh = start + STRETCH > now() - STRETCH;
    if (!this.known.has(start) || (fresh && now() - this.known.get(start).asked > 5_000)) {
      const query = { start, end: start + STRETCH };
      const answer = call("seenThings", { places: { camera }, query }).then((a) => a.seen).catch(() => []);
      this.known.set(start, { asked: now(), answer });
      if (this.known.size > 30) this.known.delete(this.known.keys().next().value);
    }
    return this.known.get(start).answer;
  }
}

/** A detector as it is drawn now, with its name. */
function watched({ name, shapes }) {
  const group = shape("g", { class: "detector-outline" });
  const drawn = shapes.filter(({ points }) => points.length);
  group.append(...drawn.map(outline));
  if (!drawn.length) return group;
  const [x, y] = labelAt(drawn[0].points);
  group.append(shape("text", { x, y }, name));
  return group;
}

/** The things of the last picture before a moment. */
function lastBefore(seen, at) {
  let found = null;
  for (const one of seen) {
    if (one.at > at) break;
    found = one;
  }
  return found && at - found.at <= OLDEST ? found.things : [];
}
