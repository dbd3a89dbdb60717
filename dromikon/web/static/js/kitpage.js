// The kit's own page: live examples.
"use strict";

document.addEventListener("alpine:init", () => {
  Alpine.data("kitpage", () => ({
    init() { this.draw(); document.addEventListener("theme", () => this.draw()); },
    draw() {
      const { pen, width } = dromikonAxis.prepare(this.$root.querySelector("[data-kit-axis]"), 84);
      const t = dromikonAxis.theme(), now = Date.now(), axis = new dromikonAxis.Axis(now - 36e5, now, 0, width), { step, found } = axis.ticks();
      pen.textAlign = "center"; pen.fillStyle = t.quiet; pen.strokeStyle = t.line;
      for (const at of found) { const x = Math.round(axis.x(at)) + 0.5; pen.beginPath(); pen.moveTo(x, 20); pen.lineTo(x, 84); pen.stroke(); pen.fillText(axis.label(at, step), x, 14); }
      pen.fillStyle = t.wait_fill; pen.fillRect(width / 2 - 1, 18, 2, 66);
    },
    sheet() { dromikon.openSheet(`/s/${dromikon.site()}/sources/device`, null); },
    toast() { dromikon.toast("Something was taken out.", { undo: () => dromikon.toast("It is back.") }); },
  }));
});
