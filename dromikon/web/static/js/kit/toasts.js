// Short words that pass by themselves, with an undo where there is one.
import { t } from "./words.js";

export function toast(text, { bad = false, undo = null, to = "", label = "", seconds = 6 } = {}) {
  const box = document.createElement("div");
  box.className = `toast arrive${bad ? " bad" : ""}`;
  box.append(document.createTextNode(text));
  if (undo) {
    const button = document.createElement("button");
    button.type = "button";
    button.textContent = t("Undo");
    button.addEventListener("click", () => { box.remove(); undo(); });
    box.append(button);
  }
  if (to) box.append(Object.assign(document.createElement("a"), { href: to, textContent: label }));
  document.querySelector("[data-toasts]").append(box);
  setTimeout(() => box.remove(), seconds * 1000);
}

/** A toast that survives the next page. */
export const toastLater = (text) => sessionStorage.setItem("toast", text);

export function showLater() {
  const later = sessionStorage.getItem("toast");
  sessionStorage.removeItem("toast");
  if (later) toast(later);
}
