// Sheets: details from the right, linkable by ?open=, closed with Esc; and pictures enlarged.
import { withParameter } from "./page.js";
import { shape } from "./svg.js";
import { refreshTimes } from "./times.js";
import { t } from "./words.js";

let opener = null;

export async function openSheet(url, key) {
  const from = document.activeElement;
  const answer = await fetch(url);
  const drawer = showSheet(t("Details"), key, from);
  if (answer.ok) drawer.insertAdjacentHTML("beforeend", await answer.text());
  else drawer.append(failed(answer.status));
  refreshTimes(drawer);
  return drawer;
}

/** An empty sheet, to be filled by whoever asked for it. */
export function showSheet(label, key, from = document.activeElement) {
  closeSheet(false);
  opener = from;
  const drawer = document.createElement("aside");
  drawer.className = "drawer arrive";
  drawer.setAttribute("role", "dialog");
  drawer.setAttribute("aria-label", label);
  drawer.tabIndex = -1;
  drawer.append(closer());
  document.body.append(drawer);
  drawer.focus();
  if (key) history.replaceState(null, "", withParameter("open", key));
  return drawer;
}

export function closeSheet(restore = true) {
  const drawer = document.querySelector(".drawer");
  if (!drawer) return false;
  drawer.remove();
  if (restore) {
    history.replaceState(null, "", withParameter("open", null));
    if (opener?.isConnected) opener.focus();
  }
  return true;
}

function failed(status) {
  const line = document.createElement("p");
  line.className = "problem";
  line.textContent = t("This cannot be shown ({status}).", { status });
  return line;
}

function closer() {
  const close = document.createElement("button");
  close.className = "btn small icon-only plain close";
  close.type = "button";
  close.setAttribute("aria-label", t("Close"));
  close.textContent = "✕";
  close.addEventListener("click", () => closeSheet());
  return close;
}

/** A picture over the whole page; a click or Esc takes it away. */
export function enlarge(source, text, part = "") {
  const box = document.createElement("div");
  box.className = "lightbox";
  const inner = document.createElement("div");
  const picture = part ? cutOut(source, text, part) : whole(source, text);
  const caption = document.createElement("p");
  caption.textContent = text;
  inner.append(picture, caption);
  box.append(inner);
  box.addEventListener("click", () => box.remove());
  document.body.append(box);
}

const whole = (src, alt) => Object.assign(document.createElement("img"), { src, alt });

/** A part of a picture, by the viewBox that shows it. */
function cutOut(source, text, part) {
  const svg = shape("svg", { viewBox: part, role: "img", "aria-label": text, class: "cut-out" });
  svg.append(shape("image", { href: source, width: 1920, height: 1080 }));
  return svg;
}

export function closePicture() {
  const box = document.querySelector(".lightbox");
  box?.remove();
  return Boolean(box);
}
