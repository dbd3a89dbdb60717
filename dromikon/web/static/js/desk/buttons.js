// Desk buttons: one press, or two positions that everybody sees.
import { call } from "../kit/ask.js";
import { toast } from "../kit/toasts.js";
import { page } from "../kit/page.js";
import { sure } from "../kit/sure.js";
import { t } from "../kit/words.js";

/** A button as it is drawn. */
export const looks = (button) => ({
  ...button,
  look: button.on ? "own" : "",
  symbol: `${page.icons}#${button.icon}`,
  pressed: button.on === null ? null : String(button.on),
});

export const pressing = {
  buttons: [], none: "",
  get rowButtons() { return this.buttons.filter((b) => b.row).map(looks); },

  async press(button, camera, event) {
    if (!sure(event.currentTarget, button.asks)) return;
    const on = button.on === null ? null : !button.on;
    try {
      const done = await call("press", { places: { button: button.id }, content: { at: camera, on } });
      toast(t("Pressed “{button}”.", { button: done.pressed }));
    } catch (error) { toast(error.message, { bad: true }); }
    this.soon();
  },
};
