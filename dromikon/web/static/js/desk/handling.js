// What is done with an alarm before it is answered: taken on, left to others, shelved, had back.
import { call, fragment } from "../kit/ask.js";
import { markProblems } from "../kit/component.js";
import { refreshTimes } from "../kit/times.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

const CALLS = { take: ["takeAlarm", {}], over: ["takeAlarm", { over_from: true }], leave: ["leaveAlarm", undefined] };

/** A card is made for everybody of a role; whose alarm it is decides which buttons count. */
export function showWhose(list, me) {
  for (const card of list.querySelectorAll("[data-alarm]")) {
    const { taken } = card.dataset, now = !taken ? "take" : taken === me ? "leave" : "over";
    for (const button of card.querySelectorAll("[data-handle]")) button.hidden = button.dataset.handle !== now;
    card.classList.toggle("of-others", now === "over");
  }
}

/** The shelf as it is now; open stays open. */
export async function renewShelf(place) {
  const open = place.querySelector("details")?.open, fresh = await fragment("shelf");
  if (!fresh) return;
  place.replaceChildren(fresh);
  const shelf = place.querySelector("details");
  if (shelf) shelf.open = Boolean(open);
  refreshTimes(place);
}

export async function handle({ target }) {
  const button = target.closest("[data-handle]"), back = target.closest("[data-unshelve]");
  if (back) return does("unshelveAlarm", back.dataset.unshelve, undefined, t("It is back."));
  if (!button) return null;
  const [name, content] = CALLS[button.dataset.handle];
  return does(name, button.closest("[data-alarm]").dataset.alarm, content);
}

async function does(name, alarm, content, words = "") {
  try {
    await call(name, { places: { alarm }, content });
    if (words) toast(words);
  } catch (error) { toast(error.message, { bad: true }); }
}

export async function shelve(event) {
  const form = event.target.closest("form[data-shelve]");
  if (!form) return;
  event.preventDefault();
  const content = { minutes: Number(form.minutes.value), why: form.why.value };
  markProblems(form, []);
  try {
    await call("shelveAlarm", { places: { alarm: form.dataset.shelve }, content });
    toast(t("On the shelf. It comes back by itself."));
  } catch (error) {
    if (!markProblems(form, error.problems || [])) toast(error.message, { bad: true });
  }
}

/** A step of what to do is ticked off, or not after all. */
export async function tick({ target }) {
  const { tick: alarm, step } = target.dataset;
  if (!alarm) return;
  try {
    await call("tickStep", { places: { alarm }, content: { step: Number(step), done: target.checked } });
  } catch (error) {
    target.checked = !target.checked;
    toast(error.message, { bad: true });
  }
}
