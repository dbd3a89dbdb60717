// Lines and areas of detectors: between the device's coordinates (-1 to 1, y upwards) and those of the drawing.

import { shape } from "../kit/svg.js";

export const WIDE = 1600, TALL = 900;
/** The least corners of each sort, and the most. */
const LEAST = { line: 2, area: 3, spot: 1 }, MOST = 40;

export const toDrawing = ([x, y]) => [((x + 1) / 2) * WIDE, ((1 - y) / 2) * TALL];

/** A place in the drawing as the device has it, kept within the picture. */
export const toDevice = ([x, y]) => [held((x / WIDE) * 2 - 1), held(1 - (y / TALL) * 2)];

const held = (value) => Math.round(Math.max(-1, Math.min(1, value)) * 10_000) / 10_000;

/** The points of an SVG polyline or polygon. */
const drawn = (points) => points.map((p) => toDrawing(p).map((n) => n.toFixed(1)).join(",")).join(" ");

/** What is drawn of a shape: its outline, its run of points, or a cross at its single place. */
export function outline({ sort, points }) {
  if (sort !== "spot") return shape(sort === "area" ? "polygon" : "polyline", { points: drawn(points) });
  const [x, y] = toDrawing(points[0]);
  return shape("path", { d: `M ${x - 20} ${y} H ${x + 20} M ${x} ${y - 20} V ${y + 20}`, class: "spot" });
}

/** Shapes with one corner elsewhere. */
export function moved(shapes, at, corner, place) {
  return shapes.map((shape, i) => (
    i === at ? { ...shape, points: shape.points.map((p, k) => (k === corner ? toDevice(place) : p)) } : shape
  ));
}

/** Shapes with one corner more, in the middle between a corner and the next one. */
export function grown(shapes, at, corner) {
  const { points, sort } = shapes[at];
  if (sort === "spot") return shapes;
  const next = points[corner + 1] || (sort === "area" ? points[0] : points[corner - 1]);
  if (points.length >= MOST) return shapes;
  const middle = [held((points[corner][0] + next[0]) / 2), held((points[corner][1] + next[1]) / 2)];
  const place = points[corner + 1] || sort === "area" ? corner + 1 : corner;
  return with_(shapes, at, [...points.slice(0, place), middle, ...points.slice(place)]);
}

/** Shapes with one corner less, as long as enough are left. */
export function shrunk(shapes, at, corner) {
  const { points, sort } = shapes[at];
  if (points.length <= (LEAST[sort] || 2)) return shapes;
  return with_(shapes, at, points.filter((_, k) => k !== corner));
}

const with_ = (shapes, at, points) => shapes.map((shape, i) => (i === at ? { ...shape, points } : shape));

/** Where the name of a shape stands: above its highest corner. */
export function labelAt(points) {
  const places = points.map(toDrawing);
  const [x, y] = places.reduce((best, p) => (p[1] < best[1] ? p : best), places[0]);
  return [Math.min(x, WIDE - 300), Math.max(y - 18, 34)];
}
