// A display: cameras over the whole screen, and what rules put up there. Nobody sits at it, so it looks after itself.
import { call } from "../kit/ask.js";
import { now } from "../kit/clock.js";
import { component } from "../kit/component.js";
import { keepConnection, onBack } from "../kit/connection.js";
import { listen, on } from "../kit/feed.js";
import { Live } from "../kit/frames.js";
import { gathered } from "../kit/gather.js";
import { carried } from "../kit/page.js";
import { t } from "../kit/words.js";
import { liveCanvases } from "./showing.js";

const GATHER = 100, TRY_AGAIN = 3_000;
/** How wide a picture is asked for, by how many stand there. */
const WIDTHS = [[1, 1280], [4, 960], [9, 640], [16, 480]];

component("display", () => ({
  screen: { cells: [], waiting: [] }, cells: [], names: new Map(), again: 0,

  init() {
    const { screen, display, slug, cameras } = carried("display");
    Object.assign(this, { display, slug, names: new Map(cameras.map((c) => [c.id, c.name])) });
    this.live = new Live(8, WIDTHS.find(([most]) => screen.cells.length <= most)[1]);
    this.soon = gathered(() => this.refresh(), GATHER);
    this.screenIs(screen);
    keepConnection();
    listen();
    on("showing", ({ data }) => { if (data.display === this.display) this.soon(); });
    on("display", ({ subject }) => { if (subject === this.display) this.soon(); });
    on("reload", () => location.reload());
    onBack(() => this.soon());
    setInterval(() => this.draw(), 500);
  },
  get look() { return `screen of-${this.screen.cells.length}`; },
  screenIs(screen) {
    this.screen = screen;
    clearTimeout(this.again);
    if (screen.until) this.again = setTimeout(() => this.soon(), Math.max(100, screen.until - screen.at + 30));
    this.draw();
  },
  draw() {
    const at = now();
    this.cells = this.screen.cells.map(({ camera, title, until, rank }, index) => ({
      index, camera, title, name: this.names.get(camera) || "", look: title ? `put-up rank-${rank}` : "",
      left: until ? `${Math.max(0, Math.ceil((until - at) / 1000))} s` : "",
    }));
    const next = this.screen.waiting.map((w) => this.names.get(w.camera) || w.camera);
    const words = next.length ? t("Next: {cameras}", { cameras: next.join(", ") }) : "";
    document.querySelector("[data-next]").textContent = words;
    this.$nextTick(() => this.live.show(liveCanvases()));
  },
  async refresh() {
    try {
      this.screenIs(await call("display", { places: { display: this.slug } }));
    } catch (error) {
      // Taken away, or not reached: what is there stays, and it is asked again.
      document.querySelector("[data-next]").textContent = error.message;
      setTimeout(() => this.soon(), TRY_AGAIN);
    }
  },
}));
