// The pictures of one to nine cameras beside each other, each with its name and what was seen in it.
import { shape } from "../kit/svg.js";
import { t } from "../kit/words.js";
import { Overlay } from "./overlay.js";

export class Screens {
  /** `outlines`: by camera, where its detectors watch. */
  constructor(place, names, outlines) {
    Object.assign(this, { __v_skip: true, place, names, outlines, cameras: [], made: [], seen: false });
  }

  /** Exactly these cameras. No picture of one camera stands under the name of another. */
  show(cameras) {
    if (String(cameras) === String(this.cameras)) return;
    this.cameras = [...cameras];
    this.made = cameras.map((camera) => this.make(camera));
    this.place.replaceChildren(...this.made.map(({ figure }) => figure));
    this.place.dataset.count = cameras.length;
    this.turn(this.seen);
  }
  make(camera) {
    const figure = document.createElement("figure"), name = this.names[camera] || camera;
    const canvas = Object.assign(document.createElement("canvas"), { className: "screen", width: 960, height: 540 });
    canvas.setAttribute("role", "img");
    canvas.setAttribute("aria-label", t("Recording of {name}", { name }));
    const over = shape("svg", { viewBox: "0 0 1600 900", "aria-hidden": "true", class: "seen" });
    const caption = document.createElement("figcaption"), problem = document.createElement("span");
    caption.textContent = name;
    problem.className = "no-picture";
    figure.append(canvas, over, caption, problem);
    return { figure, canvas, problem, overlay: new Overlay(over, this.outlines[camera] || []) };
  }
  canvas(index) { return this.made[index].canvas; }
  say(index, words) { if (this.made[index]) this.made[index].problem.textContent = words; }
  blank(index) {
    const { canvas } = this.made[index], pen = canvas.getContext("2d");
    pen.fillStyle = "#0b0d10";
    pen.fillRect(0, 0, canvas.width, canvas.height);
  }
  /** Boxes of what was seen, or no longer. */
  turn(seen) {
    this.seen = seen;
    for (const { overlay } of this.made) overlay.turn(seen);
  }
  /** What was seen at a moment: in all of them, or in one. */
  seenAt(at, only) {
    this.made.forEach(({ overlay }, i) => { if (only === undefined || only === i) overlay.show(this.cameras[i], at); });
  }
}
