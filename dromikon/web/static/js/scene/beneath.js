// Where objects went in the last hour: their paths and where most stood, beneath what is drawn.
import { call } from "../kit/ask.js";
import { now } from "../kit/clock.js";
import { shape } from "../kit/svg.js";
import { TALL, WIDE } from "../sources/shape.js";

const HOUR = 3_600_000;

export async function showPaths(place, camera) {
  const end = now();
  const { paths, stood } = await call("paths", { places: { camera }, query: { start: end - HOUR, end } });
  place.replaceChildren(...cells(stood), ...paths.map(path));
  return paths.length;
}

function path({ class: kind, corners }) {
  const points = corners.map(([x, y]) => `${(x * WIDE).toFixed(0)},${(y * TALL).toFixed(0)}`).join(" ");
  return shape("polyline", { points, class: `went ${kind}` });
}

/** The more often somebody stood there, the denser. */
function cells(stood) {
  const most = Math.max(1, ...stood.flat()), rows = stood.length, columns = stood[0]?.length || 1;
  const wide = WIDE / columns, tall = TALL / rows;
  return stood.flatMap((row, y) => row.map((count, x) => (
    count && shape("rect", {
      x: x * wide, y: y * tall, width: wide, height: tall, class: "stood",
      "fill-opacity": (0.5 * Math.sqrt(count / most)).toFixed(2),
    })
  ))).filter(Boolean);
}
