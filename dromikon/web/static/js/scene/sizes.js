// What an opened detector asks for, drawn as it is meant: the smallest and the largest person as outlines whose heads
// are dragged, and the right way as an arrow whose tip is.
import { shape } from "../kit/svg.js";
import { t } from "../kit/words.js";
import { TALL, WIDE, toDrawing } from "../sources/shape.js";

/** Where the outlines stand, and how far an arrow key changes them: percent of the height, degrees. */
const FOOT = 0.97 * TALL, PLACES = { smallest: 0.05 * WIDE, largest: 0.12 * WIDE }, STEP = 1, TURN = 5, LONG = 130;
const KEYS = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 };
const held = (value, least, most) => Math.max(least, Math.min(most, value));

export const sizes = {
  hearSizes(scene) {
    scene.addEventListener("pointerdown", (e) => {
      this.raw.sized = e.target.closest("[data-size]")?.dataset.size;
      this.raw.first = true;
      if (this.raw.sized) e.target.setPointerCapture?.(e.pointerId);
    });
    scene.addEventListener("pointermove", (e) => this.sizeTo(e));
    scene.addEventListener("pointerup", () => { this.raw.sized = null; });
    scene.addEventListener("keydown", (e) => this.sizeKey(e));
  },
  drawSizes(scene) {
    for (const setting of Object.keys(PLACES)) scene.append(outline(setting, this.sizeNow(setting)));
    const turned = this.sizeNow("right_way");
    if (turned !== undefined) scene.append(way(middle(this.current().points), turned));
  },
  /** As it is set, or as it is where nothing is; undefined where the kind has no such setting. */
  sizeNow(setting) {
    const { forms } = this.kind();
    return this.current().watch[setting] ?? forms.parts[forms.root].fields.find((f) => f.name === setting)?.default;
  },
  sizeTo(e) {
    const setting = this.raw.sized;
    if (!setting) return;
    const box = e.currentTarget.getBoundingClientRect();
    const place = [((e.clientX - box.left) / box.width) * WIDE, ((e.clientY - box.top) / box.height) * TALL];
    const [x, y] = middle(this.current().points);
    const value = setting === "right_way" ? (Math.atan2(place[1] - y, place[0] - x) * 180) / Math.PI
      : ((FOOT - place[1]) / TALL) * 100;
    this.resize(setting, value, this.raw.first);
    this.raw.first = false;
  },
  sizeKey(e) {
    const setting = e.target.closest("[data-size]")?.dataset.size, sign = KEYS[e.key];
    if (!setting || !sign) return;
    e.preventDefault();
    this.resize(setting, this.sizeNow(setting) + sign * (setting === "right_way" ? TURN : STEP));
  },
  /** With `keep` it can be brought back. */
  resize(setting, value, keep = true) {
    const { watch } = this.current(), whole = Math.round(value);
    if (keep) this.raw.before.push({ setting, value: this.sizeNow(setting) });
    const least = setting === "largest" ? 1 : 0;
    watch[setting] = setting === "right_way" ? ((whole + 540) % 360) - 180 : held(whole, least, 100);
    this.raw.form.show(watch);
    this.draw();
    this.$root.querySelector(`[data-scene] [data-size="${setting}"]`)?.focus();
    this.changed();
  },
};

function outline(setting, percent) {
  const tall = (Math.max(1, percent) / 100) * TALL, head = tall / 7, wide = tall * 0.28, x = PLACES[setting];
  const words = setting === "smallest" ? t("Not smaller than {percent} %", { percent })
    : t("Not larger than {percent} %", { percent });
  const made = slider(`sized ${setting}`, setting, words, [0, percent, 100]);
  const y = FOOT - tall, asks = percent > 0 && percent < 100;
  const radius = asks ? Math.max(10, head / 2) : 14;
  // Where any size will do there is only something to take hold of.
  const body = { x: x - wide / 2, y: y + head, width: wide, height: tall - head, rx: wide / 3 };
  if (asks) made.append(shape("rect", body));
  made.append(
    shape("circle", { cx: x, cy: Math.max(radius + 6, y + head / 2), r: radius }),
    shape("title", {}, words),
  );
  return made;
}

const slider = (looks, setting, words, [least, now, most]) => shape("g", {
  class: looks, role: "slider", tabindex: 0, "data-size": setting, "aria-label": words,
  "aria-valuenow": now, "aria-valuemin": least, "aria-valuemax": most,
});

function way([x, y], degrees) {
  const words = t("the right way");
  const turned = `translate(${x} ${y}) rotate(${degrees})`;
  const made = slider("right-way", "right_way", words, [-180, degrees, 180]);
  made.append(
    shape("path", { d: `M 0 0 L ${LONG} 0 M ${LONG - 26} -18 L ${LONG} 0 L ${LONG - 26} 18`, transform: turned }),
    shape("circle", { cx: LONG, cy: 0, r: 22, class: "hold", transform: turned }),
    shape("text", { x: x + 12, y: y - 16 }, words),
  );
  return made;
}

function middle(points) {
  const places = points.map(toDrawing);
  return [0, 1].map((i) => places.reduce((sum, p) => sum + p[i], 0) / places.length);
}
