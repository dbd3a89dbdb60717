// The drawing of points on the plan: marks with their names, what cameras see, and who looks at what.
import { t } from "../kit/words.js";
import { outline, ring, tip } from "./eyes.js";
import { placed } from "./labels.js";

const SVG = "http://www.w3.org/2000/svg";
/** Half the size of a mark, in pixels. */
export const HALF = 11;
/** Names of these come first where there is little room. */
const FIRST = { lost: 0, on: 1, silent: 2, rest: 3 };

function svg(tag, attributes, ...children) {
  const made = document.createElementNS(SVG, tag);
  for (const [name, value] of Object.entries(attributes)) {
    if (value !== undefined && value !== null && value !== false) made.setAttribute(name, value);
  }
  made.append(...children);
  return made;
}

/** Whose name comes first: what is chosen, what has an alarm, then by state. */
const rank = (point, chosen) => (point.id === chosen ? 0 : point.alarm ? 1 : 2 + FIRST[point.state]);

/** Everything afresh. `scale`: metres a pixel. */
export function drawPlan(places, points, { view, scale, chosen, wanted, editing }) {
  const shown = points.filter((p) => p.x !== null);
  const order = [...shown].sort((a, b) => rank(a, chosen) - rank(b, chosen));
  const pixels = order.map((p) => ({ x: p.x / scale, y: p.y / scale, name: p.name }));
  const { icons } = places.marks.ownerSVGElement.dataset;
  const within = [view.x, view.y, view.x + view.wide, view.y + view.tall].map((n) => n / scale);
  const names = new Map(placed(pixels, HALF, within).map((at, i) => [order[i].id, at]));
  places.eyes.replaceChildren(...shown.filter((p) => p.eye).flatMap((p) => eye(p, chosen, scale)));
  places.lines.replaceChildren(...sightlines(shown, chosen, scale));
  places.marks.replaceChildren(
    ...shown.map((p) => mark(p, { icons, scale, at: names.get(p.id), chosen: p.id === chosen, dim: !wanted(p) })),
    ...handles(shown, { scale, chosen, editing }),
  );
}

/** What a camera sees; of the chosen one also what its picture suffices for, where that is known. */
function eye(point, chosen, scale) {
  if (point.id !== chosen) return [svg("polygon", { points: outline(point), class: "eye" })];
  const rings = point.bands.map((band) => [band, ring(point, band)]).filter(([, path]) => path);
  return [
    svg("polygon", { points: outline(point), class: "eye chosen" }),
    ...rings.map(([{ purpose }, d]) => svg("path", { d, class: `ring ${purpose}` })),
    ...rings.map(([band]) => bandName(point, band, scale)),
  ];
}

function bandName(point, { label, far }, scale) {
  // At the left rim, where no sightline runs.
  const { looks, view, reach } = point.eye;
  const [x, y] = tip({ ...point, eye: { looks: looks - view / 2, reach: Math.min(far, reach) } });
  const at = { x: 0, y: 0, class: "ring-name", transform: `translate(${x} ${y}) scale(${scale})` };
  return svg("text", at, label);
}

/** Lines between what is chosen and the cameras that look at it, or what it looks at. */
function sightlines(points, chosen, scale) {
  const by = new Map(points.map((p) => [p.id, p]));
  const pairs = points.flatMap((p) => p.seen_by.filter((c) => by.has(c)).map((c) => [p, by.get(c)]));
  return pairs.filter(([p, c]) => p.id === chosen || c.id === chosen).map(([p, c]) => (
    svg("line", { x1: p.x, y1: p.y, x2: c.x, y2: c.y, class: "sightline", "stroke-width": 2 * scale })
  ));
}

function mark(point, { icons, scale, at, chosen, dim }) {
  const lost = point.state === "lost";
  const alarm = point.alarm ? t("an alarm that nobody has answered") : "";
  const said = [point.name, alarm, point.now, lost ? t("out of reach") : ""].filter(Boolean).join(", ");
  const alarmed = point.alarm ? `alarmed ${point.alarm}` : "";
  const looks = ["mark", point.state, alarmed, chosen ? "chosen" : "", dim ? "dim" : ""];
  const classes = looks.filter(Boolean).join(" ");
  const box = { x: -HALF, y: -HALF, width: 2 * HALF, height: 2 * HALF, rx: point.kind === "camera" ? HALF : 4 };
  const group = svg(
    "g",
    {
      class: classes, tabindex: 0, role: "button", "aria-label": said, "data-point": point.id,
      transform: `translate(${point.x} ${point.y}) scale(${scale})`,
    },
    svg("rect", box),
    svg("use", { href: `${icons}#${lost ? "plug-x" : point.icon}`, x: -8, y: -8, width: 16, height: 16 }),
    svg("title", {}, said),
  );
  if (point.alarm) group.prepend(svg("rect", { ...grown(box), class: "ring" }));
  const name = at || { dx: HALF + 4, dy: 4, anchor: "start" };
  const where = { x: name.dx, y: name.dy, "text-anchor": name.anchor };
  group.append(svg("text", { ...where, class: at ? "" : "hidden-name" }, point.name));
  return group;
}

/** A box with room around it. */
const ROOM = 7;
function grown({ x, y, width, height, rx }) {
  return { x: x - ROOM, y: y - ROOM, width: width + 2 * ROOM, height: height + 2 * ROOM, rx: rx + ROOM };
}

/** What a chosen camera's view is taken hold of by, while points are placed. */
function handles(points, { scale, chosen, editing }) {
  const camera = editing && points.find((p) => p.id === chosen && p.eye);
  if (!camera) return [];
  const [x, y] = tip(camera);
  const name = t("where {name} looks, and how far", { name: camera.name });
  const size = { x: -8, y: -8, width: 16, height: 16, rx: 8 };
  return [svg(
    "g",
    { class: "aim", tabindex: 0, role: "button", "aria-label": name, "data-aim": camera.id,
      transform: `translate(${x} ${y}) scale(${scale})` },
    svg("rect", size),
  )];
}
