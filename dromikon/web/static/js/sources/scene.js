// The drawing of detectors over a picture.
import { shape } from "../kit/svg.js";
import { t } from "../kit/words.js";
import { labelAt, outline, toDrawing } from "./shape.js";

/** With what is inside. */
function svg(tag, attributes, ...children) {
  const made = shape(tag, attributes);
  made.append(...children);
  return made;
}

/** All detectors; the opened one with its corners, where it may be changed. */
export function drawScene(place, detectors, opened, mayEdit) {
  const sorted = [...detectors].sort((a, b) => (a.token === opened) - (b.token === opened));
  place.replaceChildren(...sorted.map((d) => one(d, d.token === opened, mayEdit)));
}

function one(detector, opened, mayEdit) {
  const looks = ["watched", opened ? "opened" : "", detector.looks || ""].filter(Boolean).join(" ");
  const group = svg("g", { class: looks, "data-open": detector.token });
  detector.shapes.forEach(({ sort, points, words }, at) => {
    if (!points.length) return;
    group.append(outline({ sort, points }));
    if (sort === "line") group.append(...arrow(points, words));
    if (at === 0) group.append(label(detector.name, points));
    if (opened && mayEdit) group.append(...corners(points, at));
  });
  return group;
}

function label(name, points) {
  const [x, y] = labelAt(points);
  return svg("text", { x, y }, name);
}

/** Which way "from left to right" is, and what that is called: across the first leg of a line. */
function arrow(points, words) {
  const [[x0, y0], [x1, y1]] = points.slice(0, 2).map(toDrawing);
  const length = Math.hypot(x1 - x0, y1 - y0) || 1, nx = -(y1 - y0) / length, ny = (x1 - x0) / length;
  const x = (x0 + x1) / 2, y = (y0 + y1) / 2, far = 46, head = 16;
  const tip = [x + nx * far, y + ny * far];
  const side = (sign) => [tip[0] - nx * head + sign * ny * head * 0.7, tip[1] - ny * head - sign * nx * head * 0.7];
  const path = [[x, y], tip, side(1), tip, side(-1)].map((p) => p.map((n) => n.toFixed(1)).join(" ")).join(" L ");
  const [tx, ty] = [tip[0] + nx * 20, tip[1] + ny * 20 + 10];
  const name = words ? [svg("text", { x: tx, y: ty, class: "way-name" }, words)] : [];
  return [svg("path", { d: `M ${path}`, class: "way" }), ...name];
}

function corners(points, at) {
  return points.map((point, k) => {
    const [x, y] = toDrawing(point);
    const name = t("corner {n}", { n: k + 1 });
    const size = { x: x - 13, y: y - 13, width: 26, height: 26 };
    return svg("rect", { ...size, tabindex: 0, role: "button", "aria-label": name, "data-corner": `${at}-${k}` });
  });
}
