// Answering an alarm from its card.
import { call } from "../kit/ask.js";
import { markProblems } from "../kit/component.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

/** Takes what was submitted in a card's form; others' forms are left alone. */
export async function answer(event) {
  const form = event.target.closest("form[data-answer]");
  if (!form) return;
  event.preventDefault();
  const own = form.closest("[data-alarm]"), button = form.querySelector("button");
  const content = said(form);
  markProblems(form, []);
  button.disabled = true;
  own.dataset.mine = "1";
  try {
    const done = await call("acknowledge", { places: { alarm: form.dataset.answer }, content });
    toast(thanks(content, done.bookmarks));
  } catch (error) {
    delete own.dataset.mine;
    button.disabled = false;
    if (!markProblems(form, error.problems || [])) toast(error.message, { bad: true });
  }
}

/** What a form says of an alarm. */
export function said(form) {
  const tags = form.tags.value.split(",").map((tag) => tag.trim()).filter(Boolean);
  return { note: form.note.value, tags, outcome: form.elements.outcome?.value || "" };
}

function thanks({ note, tags }, bookmarks) {
  if (!note.trim() && !tags.length) return t("Acknowledged.");
  if (bookmarks) return t("Acknowledged. The bookmark carries your words.");
  return t("Acknowledged. Your words are kept with the alarm; the Archive's search finds them.");
}
