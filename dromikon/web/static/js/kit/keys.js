// Keys: those of every page, and those of a screen. Which key does what is told by the page, and its help shows it.
import { carried, typing } from "./page.js";
import { closePicture, closeSheet } from "./sheets.js";

const dialog = () => document.querySelector("[data-keys]");
export const openKeys = () => dialog().showModal();
export const closeKeys = () => dialog().close();

/** What a key sets off on this screen: an act's name, or nothing while somebody types. */
export function actOf(event) {
  const key = combination(event);
  return !event.altKey && (key.startsWith("Ctrl+") || !typing(event.target)) ? carried("acts")[key] : undefined;
}

/** A key as the page's table names it. */
export function combination({ key, ctrlKey, metaKey, shiftKey }) {
  if (!ctrlKey && !metaKey) return { "+": "Plus", "=": "Plus" }[key] || key;
  return `Ctrl+${shiftKey ? "Shift+" : ""}${key.length === 1 ? key.toLowerCase() : key}`;
}

/** Sets off acts of a screen. Those that take the key for themselves stop the browser from acting on it. */
export function dispatch(event, acts) {
  const act = acts[actOf(event)];
  if (act && act() !== false) event.preventDefault();
}

let goes = false;

export function keys(event) {
  if (event.key === "Escape") escape(event);
  if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
  const target = goes && document.querySelector(`nav a[data-go="${CSS.escape(event.key)}"]`);
  goes = event.key === "g";
  if (event.key === "/") { event.preventDefault(); document.querySelector("[data-search]")?.focus(); }
  else if (event.key === "?") openKeys();
  else if (target) location.href = target.href;
}

/** Closes what lies on top. */
function escape(event) {
  const menu = document.querySelector("details[data-menu][open]");
  if (closePicture()) return;
  if (menu) menu.open = false;
  else if (!closeSheet() && typing(event.target)) event.target.blur();
}
