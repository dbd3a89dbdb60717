// A table that is taken in: what became of its lines, and what was wrong with which.
import { call } from "./ask.js";
import { toastLater } from "./toasts.js";
import { t } from "./words.js";

/** Send the chosen file; good lines are taken, and what was wrong with others stands at `[data-table-problems]`. */
export async function takeTable(name, field, root) {
  const [file] = field.files;
  field.value = "";
  if (!file) return;
  try {
    const taken = await call(name, { file });
    const words = t("{added} added, {changed} changed, {same} were so already.", taken);
    if (taken.problems.length) { show(root, words, taken.problems); return; }
    toastLater(words);
    location.reload();
  } catch (error) { show(root, error.message, error.problems || []); }
}

function show(root, words, problems) {
  const box = root.querySelector("[data-table-problems]"), list = document.createElement("ul");
  for (const { path, message } of problems) {
    const line = document.createElement("li");
    line.textContent = path ? t("Line {line}: {message}", { line: path, message }) : message;
    list.append(line);
  }
  box.replaceChildren(words, list);
  box.hidden = false;
}
