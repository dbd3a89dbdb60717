// The time plan: one rule on one axis. Causes lie above the line, responses below, the event at zero.
import { shape } from "./svg.js";

const LEFT = 8, WIDTH = 372, ROW = 34;
const STEPS = [1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1800, 3600];

/** Where everything goes: {x, line, height, first, last, ticks, bars: [{bar, key, x, width, y, words, at, anchor}]}. */
export function layout(plan) {
  const above = plan.bars.filter((b) => b.above), below = plan.bars.filter((b) => !b.above);
  const first = Math.min(plan.first, -3) * 1.08, last = Math.max(plan.last, 5) * 1.1;
  const x = (s) => LEFT + ((Math.max(first, Math.min(last, s)) - first) / (last - first)) * WIDTH;
  const line = 24 + above.length * ROW, height = line + 34 + below.length * ROW;
  const placed = (b, i, y) => ({
    bar: b, key: `${b.part}:${b.style}:${b.above}:${i}`, y, x: x(b.start),
    width: Math.max(4, x(b.open ? last : b.end) - x(b.start)),
    words: b.open ? `${b.label} …` : b.label, ...worded(b, x),
  });
  const over = above.map((b, i) => placed(b, i, i * ROW + 8));
  const under = below.map((b, i) => placed(b, i, line + 24 + i * ROW));
  const bars = [...over, ...under];
  return { x, line, height, first, last, bars, ticks: ticks(first, last) };
}

/** A word never crosses the zero line: what ends at zero is named left of it, or right of it where room is short. */
function worded(b, x) {
  const before = b.end <= 0 && !b.open;
  const anchor = before ? (x(0) > 130 ? "end" : "start") : x(b.start) > 230 ? "end" : "start";
  if (before) return { at: x(0) + (anchor === "end" ? -6 : 6), anchor };
  return { at: anchor === "end" ? Math.min(380, x(b.end)) : x(b.start) + 4, anchor };
}

function ticks(first, last) {
  const step = STEPS.find((s) => (last - first) / s <= 8) || 7200;
  const found = [];
  for (let s = Math.ceil(first / step) * step; s <= last; s += step) found.push({ at: s, words: named(s, step) });
  return found;
}

const named = (s, step) => (s === 0 ? "0" : `${s > 0 ? "+" : "−"}${Math.abs(s)}${Math.abs(s) === step ? " s" : ""}`);
const look = (b) => (!b.above ? "act" : b.style === "quiet" ? "quiet-bar" : "wait");

/** Bars that are there already move; everything else is drawn anew. */
export function drawPlan(svg, plan) {
  const { x, line, height, bars, ticks: marks } = layout(plan);
  svg.setAttribute("viewBox", `0 0 388 ${Math.max(120, height)}`);
  const kept = new Map([...svg.querySelectorAll("rect[data-key]")].map((r) => [r.dataset.key, r]));
  for (const node of [...svg.children]) if (!node.dataset.key) node.remove();
  for (const b of bars) {
    const box = kept.get(b.key) || svg.appendChild(shape("rect", { "data-key": b.key, height: 12 }));
    kept.delete(b.key);
    const now = { class: b.bar.asks ? `${look(b.bar)} asks` : look(b.bar), y: b.y + 14, x: b.x, width: b.width };
    for (const [k, v] of Object.entries(now)) box.setAttribute(k, v);
    svg.append(shape("text", { x: b.at, y: b.y + 9, "text-anchor": b.anchor }, b.words));
  }
  for (const gone of kept.values()) gone.remove();
  svg.append(shape("path", { class: "axis", d: `M${LEFT} ${line}H${LEFT + WIDTH}`, fill: "none" }));
  for (const { at, words } of marks) {
    svg.append(shape("path", { class: "axis", d: `M${x(at)} ${line - 3}v6` }));
    const left = at === 0 ? x(at) + 7 : x(at);
    svg.append(shape("text", { class: "tick", x: left, y: line + 14, "text-anchor": "middle" }, words));
  }
  if (plan.decided > 0) svg.append(shape("path", { class: "decided", d: `M${x(plan.decided)} 0V${height}` }));
  svg.append(shape("path", { class: "zero-line", d: `M${x(0)} 4V${height}` }));
}
