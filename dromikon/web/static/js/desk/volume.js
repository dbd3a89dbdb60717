// Whether the Desk is heard, and how alarms of each priority sound to whoever sits there.
import { askForNotifications, mayAsk } from "../kit/attention.js";
import { call } from "../kit/ask.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { maySound, play } from "./sound.js";

export const volume = {
  muted: localStorage.getItem("muted") === "1",
  blocked: !maySound(),
  get soundPressed() { return String(!this.muted); },
  get soundWords() { return this.muted ? t("Sound off") : this.blocked ? t("Click for sound") : t("Sound on"); },

  toggleSound() {
    this.muted = !this.muted;
    localStorage.setItem("muted", this.muted ? "1" : "0");
    if (!this.muted) play("chime");
  },
  hearChoices() {
    const touched = () => { this.blocked = false; };
    for (const touch of ["pointerdown", "keydown"]) document.addEventListener(touch, touched, { once: true });
    this.$root.querySelector("[data-own-sounds]").addEventListener("change", (e) => this.soundChosen(e));
    const button = this.$root.querySelector("[data-notify]");
    button.hidden = !mayAsk();
    button.addEventListener("click", async () => { await askForNotifications(); button.hidden = !mayAsk(); });
  },
  async soundChosen({ target }) {
    const sounds = { ...this.own.sounds, [target.name]: target.value };
    if (target.value) play(target.value);
    try {
      await call("chooseSounds", { content: { sounds } });
      this.own.sounds = sounds;
    } catch (error) { toast(error.message, { bad: true }); }
  },
};
