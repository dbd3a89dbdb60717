// Corners of what is drawn on a picture: dragged, or moved, added and taken away by keys. A page that draws has
// `shapes()`, and `change(shapes, focused, keep)`, which takes them over; with `keep` they can be brought back.
import { TALL, WIDE, grown, moved, shrunk, toDrawing } from "./shape.js";

/** How far an arrow moves a corner. */
const STEP = 8;
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

export const corners = {
  hearCorners(scene) {
    scene.addEventListener("pointerdown", (e) => this.take(e));
    scene.addEventListener("pointermove", (e) => this.drag(e));
    scene.addEventListener("pointerup", () => { this.raw.dragged = null; });
    scene.addEventListener("keydown", (e) => this.key(e));
  },
  take(e) {
    const corner = e.target.closest("[data-corner]");
    if (!corner) return;
    e.target.setPointerCapture?.(e.pointerId);
    const [at, k] = corner.dataset.corner.split("-").map(Number);
    this.raw.dragged = { at, k, first: true };
  },
  drag(e) {
    const { dragged } = this.raw;
    if (!dragged) return;
    const box = e.currentTarget.getBoundingClientRect();
    const place = [((e.clientX - box.left) / box.width) * WIDE, ((e.clientY - box.top) / box.height) * TALL];
    this.change(moved(this.shapes(), dragged.at, dragged.k, place), null, dragged.first);
    dragged.first = false;
  },
  key(e) {
    const corner = e.target.dataset.corner;
    if (!corner) return;
    const [at, k] = corner.split("-").map(Number), shapes = this.shapes();
    if (ARROWS[e.key]) {
      const [x, y] = toDrawing(shapes[at].points[k]), [dx, dy] = ARROWS[e.key], step = e.shiftKey ? STEP * 6 : STEP;
      this.change(moved(shapes, at, k, [x + dx * step, y + dy * step]), corner);
    } else if (e.key === "+") this.change(grown(shapes, at, k), corner);
    else if (e.key === "Delete") this.change(shrunk(shapes, at, k), `${at}-${Math.max(0, k - 1)}`);
    else return;
    e.preventDefault();
  },
};
