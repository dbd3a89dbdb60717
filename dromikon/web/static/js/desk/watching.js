// What an operator watches, and what rules put up beside it: places, arranged and named by whoever sits there.
import { addressOf, call } from "../kit/ask.js";
import { now } from "../kit/clock.js";
import { carried } from "../kit/page.js";
import { toast } from "../kit/toasts.js";
import { t, tn } from "../kit/words.js";
import { looks } from "./buttons.js";

const left = (until, at) => `${Math.max(0, Math.ceil((until - at) / 1000))} s`;

export const watching = {
  cells: [], cameras: [], arrangements: [], own: {}, screen: { cells: [], waiting: [] }, paused: {},
  arranging: false, moment: 0, again: 0,

  begin() {
    const { cameras, arrangements, own, screen, paused } = carried("desk");
    Object.assign(this, { cameras, arrangements, own, paused });
    this.screenIs(screen);
  },
  get shownOnly() { return !this.arranging; },
  get switchingPressed() { return String(Boolean(this.own.switching)); },
  get switchingWords() { return this.own.switching ? t("By rules: on") : t("By rules: off"); },
  get arrangementWords() { return this.own.arrangement || ""; },
  get arrangingWords() { return String(this.arranging); },
  get tilesLook() { return `of-${this.screen.cells.length}`; },
  get waitingWords() {
    const { waiting } = this.screen;
    if (!waiting.length) return "";
    const names = waiting.slice(0, 4).map(({ camera }) => this.camera(camera)?.name || camera);
    return t("Next: {cameras}", { cameras: names.join(", ") });
  },
  camera(id) { return this.cameras.find((c) => c.id === id); },

  /** The server says what stands there; when that may change by itself it is asked again. */
  screenIs(screen) {
    this.screen = screen;
    clearTimeout(this.again);
    if (screen.until) this.again = setTimeout(() => this.soon(), Math.max(200, screen.until - screen.at + 50));
    this.drawCells();
  },
  drawCells() {
    const at = now();
    this.cells = this.screen.cells.map((cell, index) => this.cellOf(cell, index, at));
  },
  cellOf({ camera, title, until, rank }, index, at) {
    const known = this.camera(camera), name = known?.name || "", paused = this.paused[camera] || 0;
    const sheet = camera ? addressOf("cameraSheet", { camera }) : "";
    return {
      index, camera, title: title || "", name: name || t("nothing"), area: known?.area || "",
      watched: this.own.cameras?.[index] ?? camera,
      alt: t("Live picture of {name}", { name }), left: until ? left(until, at) : "",
      look: `${title ? "put-up" : ""} ${camera ? "" : "empty-place"}`, tileLook: title ? `put-up rank-${rank}` : "",
      chooser: t("Picture {n}", { n: index + 1 }), buttons: camera ? this.buttonsAt(camera) : [],
      heard: Boolean(known?.heard),
      sheet, sheetKey: `camera-${camera}`, recording: camera ? addressOf("archive", {}, { camera }) : "",
      paused, pausedWords: tn("{count} paused", "{count} paused", paused), rulesTitle: t("Rules that concern it"),
    };
  },
  buttonsAt(camera) { return this.buttons.filter((b) => b.cameras.includes(camera)).map(looks); },

  // -- arranging --------------------------------------------------------------------------------------------------
  arrange() { this.arranging = !this.arranging; },
  isCells(count) { return String(this.own.cells === count); },
  get usual() { return this.screen.cells.map((cell, i) => this.own.cameras?.[i] ?? cell.camera); },
  choose(index, { target }) {
    const cameras = this.usual;
    cameras[index] = target.value;
    return this.keep({ cameras, cells: this.own.cells });
  },
  setCells(cells) {
    const shown = this.usual.slice(0, cells), there = new Set(shown);
    const more = this.cameras.map((c) => c.id).filter((id) => !there.has(id));
    return this.keep({ cameras: [...shown, ...more].slice(0, cells), cells });
  },
  switchOver() {
    const switching = !this.own.switching;
    return this.keep({ cameras: this.usual, cells: this.own.cells, switching });
  },
  keep(content) {
    this.own.cameras = content.cameras;
    return this.ask("arrangeDesk", { content });
  },
  async nameIt({ target }) {
    const name = target.name.value.trim();
    if (await this.ask("nameArrangement", { content: { name } })) {
      toast(t("Kept as “{name}”.", { name }));
      target.reset();
    }
  },
  take(name) {
    this.own.cameras = null;
    return this.ask("takeArrangement", { content: { name } });
  },
  drop(name) { return this.ask("dropArrangement", { query: { name } }); },
  async ask(call_, how) {
    try {
      const { screen, arrangements, ...own } = await call(call_, how);
      const cameras = screen.cells.some((c) => c.title) ? this.own.cameras : screen.cells.map((c) => c.camera);
      Object.assign(this, { arrangements, own: { ...own, cameras } });
      this.screenIs(screen);
      return true;
    } catch (error) { toast(error.message, { bad: true }); return false; }
  },
};
