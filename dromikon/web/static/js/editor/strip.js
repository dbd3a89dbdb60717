// The past week as a strip: runs by hour above, each run and each event that came to nothing at its point below.
import { Axis } from "../kit/axis.js";
import { shape } from "../kit/svg.js";
import { wall } from "../kit/times.js";
import { t, tn } from "../kit/words.js";

const GUTTER = 190, HEAD = 20, BARS = 34, ROW = 20, MOST_ROWS = 6, HOUR = 36e5, END = 8;
/** Words of the sorts of marks. `away` came to nothing. */
const SORTS = {
  same: t("as the live rule"), new: t("only in the draft"), gone: t("only in the live rule"),
};

/** Everything that is on the strip, by time: {event, point, zero, sort, why}. */
export function marksOf(report) {
  const key = (r) => `${r.event}|${r.point}`, fresh = new Set((report.new || []).map(key));
  const at = (sort) => (r) => ({ ...r, zero: Date.parse(r.zero), sort: sort || (fresh.has(key(r)) ? "new" : "same") });
  const marks = [...report.runs.map(at("")), ...(report.gone || []).map(at("gone")), ...report.away.map(at("away"))];
  const asked = new Map(report.examples.map((e) => [e.event, e]));
  for (const mark of marks) {
    const words = mark.outcome || (report.same === null ? t("would run") : SORTS[mark.sort]);
    Object.assign(mark, { words, example: asked.get(mark.event) || null });
  }
  return marks.sort((a, b) => a.zero - b.zero);
}

/** Points by how much happens there; what is over is one row. */
export function rowsOf(marks) {
  const counts = new Map();
  for (const { point, sort } of marks) counts.set(point, (counts.get(point) || 0) + (sort === "away" ? 0.001 : 1));
  const points = [...counts].sort((a, b) => b[1] - a[1]).map(([point]) => point);
  if (points.length <= MOST_ROWS) return { points, others: 0 };
  return { points: points.slice(0, MOST_ROWS - 1), others: points.length - MOST_ROWS + 1 };
}

export function drawStrip(svg, report, marks, { chosen, nameOf, choose }) {
  const width = svg.clientWidth, { points, others } = rowsOf(marks), lines = points.length + (others ? 1 : 0);
  const height = HEAD + BARS + Math.max(1, lines) * ROW + 6;
  svg.replaceChildren();
  svg.setAttribute("height", height);
  if (!width) return;
  const axis = new Axis(Date.parse(report.start), Date.parse(report.end), GUTTER, width - GUTTER - END);
  const ruled = axis.ticks(110);
  for (const at of ruled.found) {
    svg.append(shape("path", { class: "axis", d: `M${axis.x(at)} ${HEAD - 4}V${height}` }));
    if (axis.x(at) > width - 50) continue;
    svg.append(shape("text", { class: "tick", x: axis.x(at) + 4, y: 13 }, axis.label(at, ruled.step)));
  }
  hours(svg, report, axis);
  const rowOf = (point) => (points.includes(point) ? points.indexOf(point) : points.length);
  const more = others ? [tn("{count} other point", "{count} other points", others)] : [];
  [...points.map(nameOf), ...more].forEach((words, i) => {
    const y = HEAD + BARS + i * ROW;
    svg.append(shape("path", { class: "axis", d: `M0 ${y}H${width}` }));
    svg.append(shape("text", { class: "name", x: 12, y: y + 14 }, shortened(words)));
  });
  const order = { away: 0, same: 1, gone: 2, new: 3 };
  for (const mark of [...marks].sort((a, b) => order[a.sort] - order[b.sort])) {
    const y = HEAD + BARS + rowOf(mark.point) * ROW + ROW / 2;
    svg.append(drawn(mark, axis.x(mark.zero), y, mark === chosen, choose));
  }
}

const shortened = (words) => (words.length > 27 ? `${words.slice(0, 26)}…` : words);

function hours(svg, report, axis) {
  const most = Math.max(4, ...Object.values(report.by_hour)), base = HEAD + BARS - 4;
  svg.append(shape("text", { class: "name", x: 12, y: base - 4 }, t("Runs by the hour")));
  for (const [hour, count] of Object.entries(report.by_hour)) {
    const at = Date.parse(hour), size = (count / most) * (BARS - 8);
    const wide = Math.max(3, axis.x(at + HOUR) - axis.x(at) - 0.5);
    svg.append(shape("rect", { class: "act", x: axis.x(at), y: base - size, width: wide, height: size }));
  }
}

const SHAPES = {
  same: "M0 -6L5 0 0 6-5 0z", new: "M-6 -2h4v-4h4v4h4v4h-4v4h-4v-4h-4z", gone: "M-5 -5L5 5M5 -5L-5 5", away: "M0 -3v6",
};

function drawn(mark, x, y, chosen, choose) {
  const look = `mark-${mark.sort}${chosen ? " chosen" : ""}`;
  const group = shape("g", { class: `run-mark ${look}`, transform: `translate(${x} ${y})` });
  group.append(shape("title", {}, `${wall(mark.zero, true, true)} · ${mark.words}`));
  group.append(shape("rect", { class: "reach", x: -5, y: -9, width: 10, height: 18 }));
  if (chosen) group.append(shape("circle", { class: "ring", r: 9 }));
  group.append(shape("path", { d: SHAPES[mark.sort] }));
  if (mark.example) {
    const held = mark.example.held === false ? "broken-mark" : "kept-mark";
    group.append(shape("path", { class: held, d: "M-4 8h8" }));
  }
  group.addEventListener("click", () => choose(mark));
  return group;
}
