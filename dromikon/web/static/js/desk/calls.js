// Calls at door stations: somebody stands there and waits, whatever else there is.
import { call } from "../kit/ask.js";
import { now } from "../kit/clock.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { ear } from "./listening.js";
import { play } from "./sound.js";

/** It rings anew every so often, in ms, for as long as nobody answers. */
const RINGS = 3_000;

export const calling = {
  calls: [], rung: 0, heardIn: null,

  callWords({ state, by, mine }) {
    if (state === "ringing") return t("Somebody rings");
    if (mine) return t("You speak with them");
    return by ? t("{name} speaks with them", { name: by }) : t("Answered at the place");
  },
  endWords({ state }) { return state === "ringing" ? t("Turn away") : t("End the call"); },
  callTime({ state, rung_at: rung, answered_at: answered }) {
    const seconds = Math.max(0, Math.round((this.moment - (state === "ringing" ? rung : answered)) / 1000));
    return state === "ringing" ? t("for {s} s", { s: seconds }) : t("{s} s", { s: seconds });
  },
  get ringing() { return this.calls.filter((c) => c.state === "ringing"); },
  ring() {
    if (!this.ringing.length || this.muted || now() - this.rung < RINGS) return;
    this.rung = now();
    play("call");
  },
  /** Whoever answers hears them from then on, where the station has a microphone. */
  async answerCall(one) {
    if (!await this.called("answerCall", one, t("You speak with them now."))) return;
    if (!one.heard || ear.camera === one.camera) return;
    this.heardIn = one;
    ear.turn(one.camera, () => {});
  },
  /** Whoever was heard in a call is heard no longer than it lasts, whoever ends it. */
  hearOut() {
    const { id, camera } = this.heardIn || {};
    if (!id || this.calls.some((c) => c.id === id)) return;
    this.heardIn = null;
    if (ear.camera === camera) ear.end();
  },
  endCall(one) {
    return this.called("endCall", one, t("The call is over."));
  },
  async called(name, one, words) {
    try {
      await call(name, { places: { call: one.id } });
      toast(words);
      return true;
    } catch (error) {
      toast(error.message, { bad: true });
      return false;
    } finally { this.soon(); }
  },
};
