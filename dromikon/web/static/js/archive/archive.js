// Archive: one camera's time axis with recordings, bookmarks and events; playback and clips.
import { call } from "../kit/ask.js";
import { zoomed } from "../kit/axis.js";
import { draggable, wheeled } from "../kit/canvas.js";
import { component, joined } from "../kit/component.js";
import { on } from "../kit/feed.js";
import { gathered } from "../kit/gather.js";
import { dispatch } from "../kit/keys.js";
import { parameter, withParameter } from "../kit/page.js";
import { wall } from "../kit/times.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { axis } from "./axis.js";
import { keepClip } from "./clip.js";
import { Overlay } from "./overlay.js";
import { Player, RATE } from "./player.js";

const SHORTEST = 20e3, LONGEST = 9 * 864e5;
/** A bookmark or clip made by hand: from so long before the moment until so long after it, in ms. */
const BEFORE = 10e3, AFTER = 20e3;
const SKIP = 5e3, FRESH = 800;
/** How long bookmarks of others are gathered before they are asked for, in ms. */
const GATHER = 300;

const archive = () => ({
  camera: "", at: 0, playing: false, speed: 1, problem: "", shown: [], from: 0, to: 0,
  coverage: [], bookmarks: [], events: [], clipping: false, clipped: 0,
  get clock() { return wall(this.at, true, true); },
  get rateWords() {
    const [first, last, n] = [this.shown[0], this.shown.at(-1), this.shown.length];
    return this.playing && n > 4 ? t("{n} pictures/s", { n: (((n - 1) * 1000) / (last - first)).toFixed(0) }) : "";
  },
  get clipWords() {
    if (!this.clipping) return t("Clip");
    return this.clipped ? `${(this.clipped / 1e6).toFixed(1)} MB` : t("encoding …");
  },
  get around() { return { start: Math.round(this.at - BEFORE), end: Math.round(this.at + AFTER) }; },

  init() {
    const d = this.$root.dataset;
    Object.assign(this, { camera: d.camera, at: Number(d.at) });
    if (d.opened) this.stretch = { start: Number(d.start), zero: Number(d.zero), end: Number(d.end) };
    this.canvas = this.$root.querySelector("[data-axis]");
    const told = { at: (at) => this.passed(at), ended: (why) => this.ended(why), coverage: () => this.coverage };
    this.player = new Player(this.$root.querySelector("[data-screen]"), told);
    this.overlay = new Overlay(this.$root.querySelector("[data-overlay]"));
    const half = this.stretch ? 90e3 : 15 * 60e3;
    Object.assign(this, { from: this.at - half, to: Math.min(this.at + half, Date.now() + 30e3) });
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
    draggable(this.canvas, { begin, moved, clicked: (e) => this.seek(this.axis.at(e.offsetX)) });
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
    };
  },
  turn(ms) {
    this.halt();
    this.seek(this.at + ms);
  },

  // -- playback ----------------------------------------------------------------------------------------------------
  async still() {
    this.problem = "";
    this.overlay.show(this.camera, this.at);
    await this.player.still(this.camera, this.at).catch((error) => { this.problem = error.message; });
  },
  play() {
    Object.assign(this, { playing: true, problem: "", shown: [] });
    this.player.play(this.camera, this.at, this.speed);
  },
  passed(at) {
    this.at = at;
    this.shown = [...this.shown.slice(-19), performance.now()];
    this.overlay.show(this.camera, at);
    this.draw();
  },
  showSeen({ target }) {
    this.overlay.turn(!this.overlay.on);
    target.closest("button").ariaPressed = String(this.overlay.on);
    this.overlay.show(this.camera, this.at);
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
    this.speed = Number(e.target.dataset.speed);
    for (const b of this.$root.querySelectorAll("[data-speed]")) b.ariaPressed = String(b === e.target);
    if (this.playing) this.play();
  },

  // -- choosing ----------------------------------------------------------------------------------------------------
  choose(camera) {
    // No picture of one camera stands under the name of another.
    if (camera !== this.camera) this.player?.blank();
    this.camera = camera;
    for (const b of this.$root.querySelectorAll("[data-choose]")) b.ariaPressed = String(b.dataset.choose === camera);
  },
  chooseCamera(e) {
    this.choose(e.target.dataset.choose);
    this.stretch = null;
    history.replaceState(null, "", withParameter("camera", this.camera));
    this.load();
    this.seek(this.at);
  },
  openBookmark(e) {
    const chosen = e.target.closest("[data-bookmark]"), d = chosen.dataset;
    for (const other of this.$root.querySelectorAll("[data-bookmark]")) other.ariaCurrent = String(other === chosen);
    this.choose(d.bookmarkCamera);
    this.stretch = { start: Number(d.bookmarkStart), zero: Number(d.bookmarkZero), end: Number(d.bookmarkEnd) };
    history.replaceState(null, "", withParameter("bookmark", d.bookmark));
    const middle = (this.stretch.start + this.stretch.end) / 2;
    this.halt();
    // Ten seconds before the event at least, whatever the bookmark says.
    this.at = Math.min(this.stretch.start, this.stretch.zero - BEFORE);
    Object.assign(this, { from: middle - 90e3, to: middle + 90e3 });
    this.load();
    this.play();
  },
  async mark() {
    const [start, end] = [this.around.start, this.around.end].map((at) => new Date(at).toISOString());
    const title = t("Bookmark at {time}", { time: wall(this.at, false, true) });
    try {
      await call("bookmark", { content: { camera: this.camera, start, end, title } });
      toast(t("Bookmarked, from ten seconds before."));
      this.load();
    } catch (error) { toast(error.message, { bad: true }); }
  },
  async clip() {
    Object.assign(this, { clipping: true, clipped: 0, problem: "" });
    const { start, end } = this.stretch || this.around;
    await keepClip(this.camera, { start, end }, (bytes) => { this.clipped = bytes; })
      .catch((error) => { this.problem = error.message; });
    this.clipping = false;
  },
});

component("archive", () => joined(archive(), axis));
