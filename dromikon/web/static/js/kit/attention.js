// Calling attention: the page's title, a notice on pages that are not the Desk, and the browser's notification.
import { addressOf } from "./ask.js";
import { on } from "./feed.js";
import { toast } from "./toasts.js";
import { t } from "./words.js";

const title = document.title;
const onDesk = () => Boolean(document.querySelector("[data-person][x-data=desk]"));
/** One call, and one alarm, is told of once; so many are remembered. */
const KEPT = 200;
const told = new Set();

export function keepAttention() {
  on("pulse", ({ data }) => { document.title = data.waiting ? `(${data.waiting}) ${title}` : title; });
  on("alarm", ({ data }) => {
    if (data.title && data.state === "unacknowledged") call(`alarm ${data.alarm}`, data.title);
  });
  on("call", ({ data }) => {
    // Who may not answer is not called.
    const rings = data.state === "ringing" && document.body.dataset.answers;
    if (rings) call(`call ${data.call}`, t("Somebody rings at a door station."));
    else told.delete(`call ${data.call}`);
  });
}

function call(key, words) {
  if (told.has(key)) return;
  told.add(key);
  if (told.size > KEPT) told.delete(told.values().next().value);
  if (!onDesk()) toast(words, { to: addressOf("desk"), label: t("To the Desk"), seconds: 12 });
  if (document.hidden) inBackground(key, words);
}

/** Shown by the browser itself, where somebody has allowed it: a click leads to the Desk. */
function inBackground(key, words) {
  if (!window.Notification || Notification.permission !== "granted") return;
  const shown = new Notification(words, { tag: key });
  shown.onclick = () => { window.focus(); if (!onDesk()) location.href = addressOf("desk"); shown.close(); };
}

/** Whether the browser may still be asked. */
export const mayAsk = () => Boolean(window.Notification) && Notification.permission === "default";
export const askForNotifications = () => Notification.requestPermission();
