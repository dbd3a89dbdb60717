// Commands by hand: told to the server, and what came of each said when its device has answered.
import { call } from "../kit/ask.js";
import { on } from "../kit/feed.js";
import { sure } from "../kit/sure.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

/** Those whose outcome is still to come, by run. */
const waiting = new Map();
/** No device takes longer, in ms: then it is asked for. */
const PATIENCE = 12_000;
const GOES_ON = ["due", "sending"];
const SAID = {
  done: (words) => t("{command}: done.", { command: words }),
  unconfirmed: (words) => t("{command}: the device did not confirm it.", { command: words }),
};

on("step", ({ data }) => { if (waiting.has(data.run) && !GOES_ON.includes(data.status)) tell(data.run); });

export async function carryOut(place, content, label = "") {
  try {
    const { run } = await call("command", { places: { point: place }, content });
    awaitOutcome(run, label);
  } catch (error) { toast(error.message, { bad: true }); }
}

/** Says what came of a run once its device has answered. */
export function awaitOutcome(run, label) {
  waiting.set(run, label || t("Command"));
  setTimeout(() => tell(run, true), PATIENCE);
}

/** A command may have several parts, light and sound: it is told once all are through, or at the `last` look. */
async function tell(run, last = false) {
  const words = waiting.get(run), nothing = { status: "unknown", answer: "" };
  if (words === undefined) return;
  const { status, answer } = await call("whatCame", { places: { run } }).catch(() => nothing);
  if ((GOES_ON.includes(status) && !last) || !waiting.delete(run)) return;
  const said = SAID[status]?.(words) || t("{command}: not done. {why}", { command: words, why: answer });
  toast(said, { bad: status !== "done" });
}

/** Commands of a place: what was clicked is carried out, at its alarm where it stands at one. */
export function commandClicked({ target }) {
  const button = target.closest("[data-offer]");
  if (!button || button.form || !sure(button, button.dataset.asks)) return null;
  return told(button.dataset);
}

/** What is to be said at a place, from a form of its own. */
export function wordsSaid(event) {
  const form = event.target.closest("form[data-say]");
  if (!form) return;
  event.preventDefault();
  const words = form.words.value.trim();
  if (!words) { form.words.focus(); return; }
  told({ ...form.dataset, offer: form.dataset.say, words });
  form.reset();
}

function told({ offer, place, alarm, label, words = "" }) {
  return carryOut(place, { key: offer, words, alarm: alarm ? Number(alarm) : null }, label);
}
