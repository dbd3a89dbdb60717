// The shift: notes into the log, handing over, taking over.
import { addressOf, call } from "../kit/ask.js";
import { component } from "../kit/component.js";
import { toastLater } from "../kit/toasts.js";
import { t } from "../kit/words.js";

component("shift", () => ({
  problem: "",

  write({ target }) {
    return this.does("writeNote", { content: { text: target.text.value } }, t("Written into the log."));
  },
  handOver({ target }) {
    return this.does("handOver", { content: { note: target.note.value } }, t("Handed over."));
  },
  takeOver({ target }) {
    const places = { handover: target.closest("[data-handover]").dataset.handover };
    return this.does("takeOver", { places }, t("You have taken over."), addressOf("shift"));
  },
  async does(name, how, words, to = "") {
    try {
      await call(name, how);
      toastLater(words);
      if (to) location.href = to;
      else location.reload();
    } catch (error) { this.problem = error.message; }
  },
}));
