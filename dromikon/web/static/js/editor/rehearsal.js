// The rehearsal of a draft: what it would have done in the past week, and how that moves with its first number.
import { asked } from "../kit/ask.js";
import { t } from "../kit/words.js";
import { shape } from "../kit/svg.js";

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

const LEFT = 30, HIGH = 110, FOOT = 20;

/** How the number of runs moves with a value. */
export function drawSweep(svg, { points, now }) {
  svg.replaceChildren();
  svg.setAttribute("height", HIGH + FOOT);
  const top = Math.max(1, ...points.map((p) => p[1])), wide = svg.clientWidth - LEFT - 20;
  const low = points[0][0], high = points[points.length - 1][0];
  const x = (v) => LEFT + ((v - low) / (high - low || 1)) * wide, y = (n) => HIGH - (n / top) * (HIGH - 22);
  const way = points.map(([v, n]) => `${x(v)} ${y(n)}`).join("L");
  svg.append(shape("path", { class: "axis", d: `M${LEFT} ${HIGH}h${wide}` }));
  svg.append(shape("path", { class: "zero-line", d: `M${x(Math.max(low, Math.min(high, now)))} 6V${HIGH}` }));
  svg.append(shape("path", { class: "way", d: `M${way}` }));
  for (const [v, n] of points) {
    svg.append(shape("text", { x: x(v), y: HIGH + 15, "text-anchor": "middle", class: "tick" }, Number(v.toFixed(1))));
    svg.append(shape("circle", { class: "act", cx: x(v), cy: y(n), r: 3 }));
    svg.append(shape("text", { x: x(v), y: y(n) - 7, "text-anchor": "middle", class: "tick" }, n));
  }
}
