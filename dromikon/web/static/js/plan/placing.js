// Points put where they stand: dragged, moved by keys, cameras aimed; each change kept at once, and undone again.
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { aimed } from "./eyes.js";

/** An arrow moves a point by so many metres, and with Shift by so many; a bracket turns a camera by so many degrees. */
const STEP = 0.5, LARGE = 5, TURN = 5;

const copy = ({ id, x, y, eye }) => ({ id, x, y, eye: eye && { ...eye } });

export const placing = {
  /** A point or the end of a view follows the pointer. */
  pull(held, [x, y]) {
    const point = this.point(held.point || held.aim);
    if (!held.pulled) { held.pulled = point; held.before = copy(point); }
    if (held.aim) Object.assign(point.eye, aimed(point, [x, y]));
    else [point.x, point.y] = this.within([x, y]);
    this.draw();
  },
  within([x, y]) {
    const { plan } = this.raw, held = (value, most) => Math.round(Math.min(Math.max(value, 0), most) * 100) / 100;
    return [held(x, plan.wide), held(y, plan.tall)];
  },
  /** What was pulled is kept; where it was can be brought back. */
  keep(point, before) {
    this.raw.before.push(before);
    return this.save(point);
  },
  /** Whether an arrow moved a point rather than the plan. */
  nudge(e, dx, dy) {
    const point = this.raw.editing && this.point(e.target.dataset.point);
    if (!point) return false;
    this.raw.before.push(copy(point));
    const step = e.shiftKey ? LARGE : STEP;
    [point.x, point.y] = this.within([point.x + dx * step, point.y + dy * step]);
    this.draw(point.id);
    this.saveSoon(point);
    return true;
  },
  /** Whether a key turned a camera, or undid something. */
  turn(e) {
    if (e.key === "z" && (e.ctrlKey || e.metaKey)) { this.undo(); return true; }
    const point = this.raw.editing && this.point(e.target.dataset.point);
    const by = { "[": -TURN, "]": TURN }[e.key];
    if (!point?.eye || !by) return false;
    this.raw.before.push(copy(point));
    point.eye.looks = (point.eye.looks + by + 360) % 360;
    this.draw(point.id);
    this.saveSoon(point);
    return true;
  },
  /** Keys that come fast are one change to keep. */
  saveSoon(point) {
    clearTimeout(this.raw.saving);
    this.raw.saving = setTimeout(() => this.save(point), 400);
  },
  undo() {
    const last = this.raw.before.pop();
    if (!last) { toast(t("Nothing to undo.")); return; }
    const point = Object.assign(this.point(last.id), last);
    this.draw(point.id);
    this.save(point);
    this.list();
  },
  /** A point that is not on the plan yet comes into the middle of what is shown. */
  async put(id) {
    const point = this.point(id), { view } = this.raw;
    this.raw.before.push(copy(point));
    [point.x, point.y] = this.within([view.x + view.wide / 2, view.y + view.tall / 2]);
    if (point.kind === "camera") point.eye ||= { looks: 0, view: 70, reach: 25 };
    if (await this.save(point)) this.choose(id);
    this.list();
  },
  async takeOff(id) {
    const point = this.point(id);
    this.raw.before.push(copy(point));
    point.x = point.y = null;
    await this.save(point);
    this.draw();
    this.list();
  },
};
