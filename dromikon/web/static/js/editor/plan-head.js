// The head of the time plan: closer and further away, the rows above the line, and the line itself.
import { HEAD } from "./plan.js";
import { el } from "../form/dom.js";
import { shape } from "../kit/svg.js";
import { t } from "../kit/words.js";

const LOOK = { class: "btn small icon-only plain", type: "button" };

/** The head of the plan: what can be done to it, the rows above the line, and the line. */
export function planHead(plan) {
  const press = (words, sign, does) =>
    el("button", { ...LOOK, title: words, "aria-label": words, on: { click: does } }, sign);
  const zoom = [
    press(t("Closer"), "+", () => plan.zoomBy(1.6, plan.scale.width / 4)),
    press(t("Further away"), "−", () => plan.zoomBy(1 / 1.6, plan.scale.width / 4)),
    press(t("All of it"), "↔", () => plan.fit()),
  ];
  const title = el("h2", { class: "plan-word" }, t("Time plan"), el("span", { class: "row zoom" }, zoom));
  const named = { role: "img", tabindex: 0, "aria-label": t("Time axis") };
  const axis = shape("svg", { class: "track axis-row", height: HEAD, ...named });
  axis.addEventListener("wheel", (e) => {
    e.preventDefault();
    plan.zoomBy(e.deltaY < 0 ? 1.25 : 0.8, e.offsetX);
  }, { passive: false });
  const drags = (down) => {
    const move = (e) => { plan.shiftBy(down.x - e.clientX); down.x = e.clientX; };
    const away = () => { axis.removeEventListener("pointermove", move); };
    axis.setPointerCapture(down.id);
    axis.addEventListener("pointermove", move);
    axis.addEventListener("pointerup", away, { once: true });
  };
  axis.addEventListener("pointerdown", (e) => drags({ x: e.clientX, id: e.pointerId }));
  const keys = {
    "+": () => plan.zoomBy(1.6), "-": () => plan.zoomBy(1 / 1.6), 0: () => plan.fit(),
    ArrowLeft: () => plan.shiftBy(-80), ArrowRight: () => plan.shiftBy(80),
  };
  axis.addEventListener("keydown", (e) => { if (keys[e.key]) { e.preventDefault(); keys[e.key](); } });
  return el("div", { "data-plan": true }, el("div", { class: "plan-rows" }),
    el("div", { class: "plan-row line" }, title, axis));
}
