// The rehearsal of a draft: what it would have done in the past week, and how that moves with its first number.
import { asked } from "../kit/ask.js";
import { t } from "../kit/words.js";
import { shape } from "./svg.js";

const PERCENT = [10, 20, 30, 40, 50, 60, 70, 80, 90, 95];
const AROUND = [0.25, 0.5, 0.75, 1, 1.25, 1.5, 2];

/** The first number among the conditions, wherever it stands, and values around it; null when there is none. */
export function firstNumber(tree, fields, path = "provided") {
  if (!tree) return null;
  if (tree.test === "field" && typeof tree.value === "number") {
    const field = fields.find((f) => f.name === tree.field);
    const values = field?.unit === "%" ? PERCENT : AROUND.map((k) => tree.value * k);
    const words = t("Runs by {field}", { field: field ? field.label : tree.field });
    return { path: `${path}.value`, values, now: tree.value, words };
  }
  for (const [inner, place] of inside(tree, path)) {
    const found = firstNumber(inner, fields, place);
    if (found) return found;
  }
  return null;
}

function inside(tree, path) {
  if (Array.isArray(tree.of)) return tree.of.map((inner, i) => [inner, `${path}.of.${i}`]);
  return tree.of ? [[tree.of, `${path}.of`]] : [];
}

/** Asks for a rehearsal and reads its lines: its progress, and at last its report; null when it broke off. */
export async function rehearsed(content, signal, progress) {
  const answer = await asked("rehearse", { content, signal, accept: "application/x-ndjson" });
  if (!answer.ok) return null;
  const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  for (;;) {
    const { value, done } = await reader.read();
    if (done) return null;
    const lines = (rest + value).split("\n");
    rest = lines.pop();
    for (const line of lines.filter(Boolean).map((text) => JSON.parse(text))) {
      if (line.progress === undefined) return line.report || null;
      progress(line.progress);
    }
  }
}

/** Runs by day of the past week. `day` gives the words of an instant's day. */
export function drawWeek(svg, byHour, day) {
  svg.replaceChildren();
  const days = new Map();
  for (let i = 6; i >= 0; i -= 1) days.set(day(Date.now() - i * 864e5), 0);
  for (const [hour, count] of Object.entries(byHour)) {
    const at = day(Date.parse(hour));
    if (days.has(at)) days.set(at, days.get(at) + count);
  }
  const most = Math.max(4, ...days.values());
  [...days].forEach(([words, count], i) => {
    const height = (count / most) * 34;
    svg.append(shape("rect", { x: 8 + i * 54, y: 46 - height, width: 40, height: Math.max(1, height), class: "act" }));
    svg.append(shape("text", { x: 28 + i * 54, y: 60, "text-anchor": "middle", class: "tick" }, words));
    if (count) svg.append(shape("text", { x: 28 + i * 54, y: 42 - height, "text-anchor": "middle" }, count));
  });
}

/** How the number of runs moves with a value. */
export function drawSweep(svg, { points, now }) {
  svg.replaceChildren();
  const top = Math.max(1, ...points.map((p) => p[1]));
  const low = points[0][0], high = points[points.length - 1][0];
  const x = (v) => 8 + ((v - low) / (high - low || 1)) * 372, y = (n) => 54 - (n / top) * 42;
  const way = points.map(([v, n]) => `${x(v)} ${y(n)}`).join("L");
  svg.append(shape("path", { d: `M${way}`, fill: "none", stroke: "var(--own)", "stroke-width": 2 }));
  svg.append(shape("path", { class: "zero-line", d: `M${x(Math.max(low, Math.min(high, now)))} 6V58` }));
  svg.append(shape("path", { class: "axis", d: "M8 58H380" }));
  for (const [v, n] of points.filter((_, i) => i % 2 === 0)) {
    svg.append(shape("text", { x: x(v), y: 71, "text-anchor": v === low ? "start" : "middle", class: "tick" }, v));
    if (n) svg.append(shape("text", { x: x(v) + 3, y: y(n) - 4, class: "tick" }, n));
  }
}
