// What a rule would do at a case, on the axis of traces: zero at the left, each step at its moment.
import { shape } from "../kit/svg.js";
import { t } from "../kit/words.js";
import { span } from "./axes.js";

const LEFT = 260, WIDE = 1000, ROW = 24, TOP = 24;

/** `tried`: what the server tells, with places from 0 to 1 on the axis. */
export function drawPlan(svg, { plan, ticks }) {
  const lines = rowsOf(plan), height = TOP + Math.max(1, lines.length) * ROW;
  svg.setAttribute("viewBox", `0 0 ${LEFT + WIDE + 40} ${height}`);
  const marks = ticks.map(({ seconds, x }) => tick(LEFT + x * WIDE, span(seconds), height, "tick"));
  svg.replaceChildren(
    tick(LEFT, t("zero"), height, "zero"), ...marks,
    ...lines.flatMap((line, i) => row(line, TOP + i * ROW)),
  );
}

/** One line a step and target; what is held and let go of is on one. */
function rowsOf(plan) {
  const rows = new Map();
  for (const one of plan) {
    const key = `${one.step}|${one.target}|${one.why}`;
    rows.set(key, [...(rows.get(key) || []), one]);
  }
  return [...rows.values()];
}

function tick(x, words, height, look) {
  const node = shape("g", { class: look });
  node.append(shape("line", { x1: x, x2: x, y1: 16, y2: height }));
  node.append(shape("text", { x, y: 11, "text-anchor": "middle" }, words));
  return node;
}

function row(moments, y) {
  const [first] = moments, words = [first.label, first.target].filter(Boolean).join(" · ");
  const label = shape("text", { x: 0, y: y + 15, class: first.why ? "away" : "" }, shortened(words));
  label.append(shape("title", {}, words));
  const at = (one) => LEFT + one.x * WIDE, nodes = [label];
  const off = moments.find((one) => one.released), on = moments.find((one) => !one.released);
  if (on && off) nodes.push(shape("rect", { class: "held", x: at(on), y: y + 8, width: at(off) - at(on), height: 8 }));
  for (const one of moments.filter((m) => !m.released)) nodes.push(mark(at(one), y, one));
  if (first.why) nodes.push(shape("text", { class: "away", x: at(first) + 14, y: y + 15 }, first.why));
  return nodes;
}

function mark(x, y, one) {
  const look = one.why ? "step away" : "step";
  const node = shape("path", { class: look, d: `M${x} ${y + 5}l7 7l-7 7l-7 -7z` });
  node.append(shape("title", {}, `${one.label}: +${span(one.after)}`));
  return node;
}

const shortened = (words) => (words.length > 40 ? `${words.slice(0, 39)}…` : words);
