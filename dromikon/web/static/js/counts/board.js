// A board at a door: whether there is room, and for how many.
import { component } from "../kit/component.js";
import { listen, on } from "../kit/feed.js";
import { t, tn } from "../kit/words.js";

/** From this share of the room on it is nearly full. */
const NEARLY = 0.9;

component("board", () => ({
  stands: 0, room: 0,

  init() {
    const { counter, stands, room } = this.$root.dataset;
    Object.assign(this, { stands: Number(stands), room: Number(room) });
    on("counter", ({ subject, data }) => { if (subject === counter) this.stands = data.value; });
    listen();
  },
  get free() { return Math.max(0, this.room - this.stands); },
  get hasRoom() { return this.room > 0 && this.free > 0; },
  get full() { return this.room > 0 && !this.free; },
  get look() { return this.full ? "full" : this.room && this.stands >= NEARLY * this.room ? "nearly" : "free"; },
  get words() { return this.full ? t("Please wait") : t("Welcome"); },
  get left() { return String(this.free); },
  get small() {
    if (this.full) return t("It is full. You can come in as soon as somebody leaves.");
    if (this.room) return tn("more can come in now", "more can come in now", this.free);
    return tn("{count} is inside", "{count} are inside", this.stands);
  },
}));
