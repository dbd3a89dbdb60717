// Archive: one to nine cameras in step on one time axis with recordings, bookmarks, alarms and events.
import { addressOf, call } from "../kit/ask.js";
import { zoomed } from "../kit/axis.js";
import { draggable, wheeled } from "../kit/canvas.js";
import { component, joined } from "../kit/component.js";
import { on } from "../kit/feed.js";
import { gathered } from "../kit/gather.js";
import { dispatch } from "../kit/keys.js";
import { carried, parameter } from "../kit/page.js";
import { wall } from "../kit/times.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { axis } from "./axis.js";
import { bookmarks } from "./bookmarks.js";
import { choosing } from "./choosing.js";
import { keepClip } from "./clip.js";
import { cutting } from "./cutting.js";
import { Player, RATE } from "./player.js";
import { Screens } from "./screens.js";

const SHORTEST = 20e3, LONGEST = 9 * 864e5;
const SKIP = 5e3, FRESH = 800;
/** How long bookmarks of others are gathered before they are asked for, in ms. */
const GATHER = 300;

const archive = () => ({
  cameras: [], at: 0, playing: false, speed: 1, problem: "", shown: [], from: 0, to: 0, sought: "event", hovered: "",
  recorded: [], marks: [], curves: [], spots: [], clipping: false, clipped: 0,
  get clock() { return wall(this.at, true, true); },
  get hoveredWords() { return this.hovered || "\u00a0"; },
  get rateWords() {
    const [first, last, n] = [this.shown[0], this.shown.at(-1), this.shown.length];
    return this.playing && n > 4 ? t("{n} pictures/s", { n: (((n - 1) * 1000) / (last - first)).toFixed(0) }) : "";
  },
  get clipWords() {
    if (!this.clipping) return t("Clip");
    return this.clipped ? `${(this.clipped / 1e6).toFixed(1)} MB` : t("encoding …");
  },
  get caseHref() {
    const { start, end } = this.part;
    return addressOf("cases", {}, { add: "clip", cameras: this.cameras.join(","), start, end });
  },
  get coverage() { return this.recorded[0]?.stretches || []; },

  init() {
    const d = this.$root.dataset;
    this.at = Number(d.at);
    if (d.opened) this.stretch = { start: Number(d.start), zero: Number(d.zero), end: Number(d.end) };
    this.names = carried("camera-names");
    this.canvas = this.$root.querySelector("[data-axis]");
    this.screens = new Screens(this.$root.querySelector("[data-screens]"), this.names, carried("outlines"));
    const told = { at: (at, i) => this.passed(at, i), ended: (why) => this.ended(why), coverage: () => this.coverage };
    this.player = new Player(this.screens, told);
    const half = this.stretch ? 90e3 : 15 * 60e3;
    Object.assign(this, { from: this.at - half, to: Math.min(this.at + half, Date.now() + 30e3) });
    const cameras = d.camera.split(",");
    this.several = cameras.length > 1;
    this.choose(cameras);
    this.bind();
    this.load();
    this.still();
    if (d.opened || parameter("at")) this.play();
  },
  bind() {
    const begin = () => ({ from: this.from, to: this.to });
    const moved = ({ from, to }, pixels) => {
      const shift = (pixels / this.canvas.clientWidth) * (to - from);
      this.look(from - shift, to - shift);
    };
    draggable(this.canvas, { begin, moved, clicked: (e) => this.click(e), hover: (e) => this.hover(e) });
    this.canvas.addEventListener("pointerleave", () => this.leave());
    wheeled(this.canvas, 1.3, (factor, x) => {
      const { start, end } = zoomed({ start: this.from, end: this.to }, factor, this.axis.at(x), SHORTEST, LONGEST);
      this.look(start, end);
    });
    document.addEventListener("keydown", (e) => dispatch(e, this.acts(e)));
    document.addEventListener("theme", () => this.draw());
    window.addEventListener("resize", () => this.draw());
    on("bookmark", gathered(() => this.load(), GATHER));
  },
  acts({ target }) {
    const picture = 1000 / RATE;
    const button = target.tagName === "BUTTON" && !target.dataset.bookmark;
    return {
      // On a button the space bar presses the button.
      play: () => (button ? false : this.toggle()),
      back: () => this.back(),
      on: () => this.on(),
      pictureBack: () => this.turn(-picture),
      pictureOn: () => this.turn(picture),
      jumpBack: () => this.jumpBack(),
      jumpOn: () => this.jumpOn(),
      fromHere: () => this.fromHere(),
      toHere: () => this.toHere(),
    };
  },
  turn(ms) {
    this.halt();
    this.seek(this.at + ms);
  },

  // -- playback ----------------------------------------------------------------------------------------------------
  async still() {
    this.problem = "";
    this.screens.seenAt(this.at);
    await this.player.still(this.cameras, this.at).catch((error) => { this.problem = error.message; });
  },
  play() {
    Object.assign(this, { playing: true, problem: "", shown: [] });
    this.player.play(this.cameras, this.at, this.speed);
  },
  passed(at, index) {
    this.at = at;
    if (index === 0) this.shown = [...this.shown.slice(-19), performance.now()];
    this.screens.seenAt(at, index);
    this.draw();
  },
  showSeen({ target }) {
    this.screens.turn(!this.screens.seen);
    target.closest("button").ariaPressed = String(this.screens.seen);
    this.screens.seenAt(this.at);
  },
  ended(why) { Object.assign(this, { playing: false, problem: why }); },
  halt() {
    this.player.halt();
    this.playing = false;
  },
  toggle() { if (this.playing) this.halt(); else this.play(); },
  seek(at) {
    const was = this.playing;
    this.halt();
    this.at = Math.min(at, Date.now() - FRESH);
    this.keepInView();
    this.draw();
    if (was) this.play();
    else this.still();
  },
  back() { this.seek(this.at - SKIP); },
  on() { this.seek(this.at + SKIP); },
  setSpeed(e) {
    this.speed = Number(e.target.value);
    if (this.playing) this.play();
  },

  async mark() {
    const { start: from, end: to } = this.cut || this.around;
    const [start, end] = [from, to].map((at) => new Date(at).toISOString());
    const title = t("Bookmark at {time}", { time: wall(this.at, false, true) });
    try {
      await call("bookmark", { content: { camera: this.cameras[0], start, end, title } });
      toast(this.cut ? t("Bookmarked.") : t("Bookmarked, from ten seconds before."));
      this.load();
    } catch (error) { toast(error.message, { bad: true }); }
  },
  async clip() {
    Object.assign(this, { clipping: true, clipped: 0, problem: "" });
    const { start, end } = this.part;
    for (const camera of this.cameras) {
      await keepClip(camera, { start, end }, (bytes) => { this.clipped = bytes; })
        .catch((error) => { this.problem = error.message; });
    }
    this.clipping = false;
  },
});

component("archive", () => joined(archive(), axis, choosing, bookmarks, cutting));
