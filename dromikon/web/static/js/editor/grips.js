// Edges of bars that stand for a number of the rule: by the pointer, and by the keyboard as sliders.
import { round, span, worth } from "./axes.js";
import { shape } from "../kit/svg.js";
import { t } from "../kit/words.js";

const WIDE = 12;
const KEYS = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -10, PageUp: 10 };

/** The grips of a bar: one for the whole of it, one for each edge that is a number. */
export function grips(plan, bar, height) {
  const words = { moves: t("when it begins"), begins: t("how long before"), ends: t("how long") };
  return ["moves", "begins", "ends"]
    .filter((name) => bar[name] && plan.limits(bar[name].path))
    .map((name) => grip(plan, bar, name, height, `${bar.label}: ${words[name]}`));
}

const valueOf = (grip, edge) => grip.way * (edge - grip.origin);

function grip(plan, bar, name, height, words) {
  const held = bar[name], edge = name === "ends" ? bar.end : bar.start;
  const [left, right] = plan.ends(bar), x = name === "ends" ? right : left;
  const whole = name === "moves", value = valueOf(held, edge), { least, most } = plan.limits(held.path);
  const body = { x: left - 8, width: Math.max(16, right - left + (bar.ends ? -4 : 16)) };
  const box = whole ? body : { x: x - WIDE / 2, width: WIDE };
  const node = shape("g", {
    class: whole ? "grip whole" : "grip", tabindex: 0, role: "slider", "aria-label": words, "data-grip": held.path,
    "aria-valuenow": value, "aria-valuemin": least, "aria-valuemax": most, "aria-valuetext": span(value),
  });
  node.append(shape("rect", { class: "reach", y: 0, height, ...box }));
  if (!whole) node.append(shape("rect", { class: "handle", x: x - 2, y: height / 2 - 9, width: 4, height: 18, rx: 2 }));
  node.addEventListener("focus", () => { plan.focused = held.path; });
  // Whoever goes elsewhere goes to something; what is only drawn anew leaves the hand nowhere.
  node.addEventListener("blur", (e) => { if (e.relatedTarget) plan.focused = ""; });
  node.addEventListener("pointerdown", (e) => drag(plan, bar, held, { value, edge, node }, e));
  node.addEventListener("keydown", (e) => {
    const by = KEYS[e.key];
    if (!by) return;
    e.preventDefault();
    const size = e.shiftKey ? 0.1 : value >= 600 ? 60 : value >= 120 ? 10 : 1;
    set(plan, held, value + by * size * (name === "begins" ? -1 : 1), true);
  });
  return node;
}

function set(plan, held, wanted, done) {
  const { least, most, whole } = plan.limits(held.path);
  const value = Math.min(most, Math.max(least, Number(wanted.toFixed(1))));
  plan.moved(held.path, whole ? Math.round(value) : value, done);
  return value;
}

/** The bar follows the hand at once; the rule is read anew in between, and drawn anew when it is let go. */
function drag(plan, bar, held, { value, edge, node }, down) {
  if (down.button) return;
  down.preventDefault();
  node.focus({ preventScroll: true });
  const seconds = worth(plan.scale, bar.anchor, edge, Math.abs(value)), begin = down.clientX;
  const was = { start: bar.start, end: bar.end };
  let last = value;
  plan.held = plan.scale;
  const move = (e) => {
    const wanted = value + (e.clientX - begin) * seconds * held.way;
    last = set(plan, held, e.altKey ? wanted : round(wanted, seconds), false);
    const by = held.way * (last - value), same = (b) => b.part === bar.part && b.style === bar.style;
    const now = plan.plan.bars.find(same) || bar;
    if (held === bar.moves) Object.assign(now, { start: was.start + by, end: was.end + by });
    else Object.assign(now, held === bar.ends ? { end: was.end + by } : { start: was.start + by });
    plan.draw();
  };
  const done = () => {
    window.removeEventListener("pointermove", move);
    window.removeEventListener("pointerup", done);
    plan.held = null;
    plan.moved(held.path, last, true);
    plan.draw();
  };
  window.addEventListener("pointermove", move);
  window.addEventListener("pointerup", done);
}

