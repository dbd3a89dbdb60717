// Outlines of detectors over a live picture, with how each is now: those that hold stand out.
import { call } from "../kit/ask.js";
import { on } from "../kit/feed.js";
import { gathered } from "../kit/gather.js";
import { carried } from "../kit/page.js";
import { shape } from "../kit/svg.js";
import { labelAt, outline } from "../sources/shape.js";

const GATHER = 800;

/** Draws them where the page has a place for them, and again whenever something happens. */
export function keepOutlines(root) {
  const places = [...root.querySelectorAll("[data-outlines]")];
  if (!places.length) return;
  const outlines = carried("outlines");
  const draw = async () => {
    const known = new Map((await call("pointsNow").catch(() => [])).map((p) => [p.id, p]));
    for (const place of places) {
      place.replaceChildren(...(outlines[place.dataset.outlines] || []).map((d) => one(d, known.get(d.point))));
    }
  };
  draw();
  on("event", gathered(draw, GATHER));
}

function one({ name, shapes }, present) {
  const group = shape("g", { class: present?.on ? "active" : "" });
  shapes.forEach(({ sort, points }, at) => {
    if (!points.length) return;
    group.append(outline({ sort, points }));
    if (at > 0) return;
    const [x, y] = labelAt(points), reads = present && /\d/.test(present.now) ? ` ${present.now}` : "";
    group.append(shape("text", { x, y }, `${name}${reads}`));
  });
  return group;
}
