// The kit's own page: live examples.
import { addressOf } from "./ask.js";
import { Axis } from "./axis.js";
import { drawTicks, prepare, theme } from "./canvas.js";
import { component } from "./component.js";
import { openSheet } from "./sheets.js";
import { toast } from "./toasts.js";
import { t } from "./words.js";

component("samples", () => ({
  init() {
    this.draw();
    document.addEventListener("theme", () => this.draw());
  },
  draw() {
    const { pen, width } = prepare(this.$root.querySelector("[data-kit-axis]"), 84);
    const colours = theme(), now = Date.now();
    drawTicks(pen, new Axis(now - 36e5, now, 0, width), colours, { top: 20, bottom: 84, words: 14 });
    pen.fillStyle = colours.wait_fill;
    pen.fillRect(width / 2 - 1, 18, 2, 66);
  },
  sheet() { openSheet(addressOf("newDevice"), null); },
  toast() { toast(t("Something was taken out."), { undo: () => toast(t("It is back.")) }); },
}));
