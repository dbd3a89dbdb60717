// What every page begins with.
import { keepAttention } from "./attention.js";
import { keepBar, setMode, setTheme } from "./bar.js";
import { keepConnection } from "./connection.js";
import { listen } from "./feed.js";
import { closeKeys, keys, openKeys } from "./keys.js";
import { listed } from "./listing.js";
import { enlarge, openSheet } from "./sheets.js";
import { refreshTimes } from "./times.js";
import { showLater } from "./toasts.js";

/** What a click on something with such an attribute does. */
const CLICKS = {
  themeSet: (target) => setTheme(target.dataset.themeSet),
  modeSet: (target) => setMode(target.dataset.modeSet),
  keysOpen: openKeys,
  keysClose: closeKeys,
  sheet: (target, event) => {
    event.preventDefault();
    openSheet(target.dataset.sheet, target.dataset.sheetKey);
  },
  enlarge: (target) => enlarge(target.dataset.enlarge, target.dataset.caption || "", target.dataset.part),
};
const SELECTOR = "[data-theme-set], [data-mode-set], [data-keys-open], [data-keys-close], [data-sheet], [data-enlarge]";

function clicked(event) {
  for (const menu of document.querySelectorAll("details[data-menu][open]")) {
    if (!menu.contains(event.target)) menu.open = false;
  }
  const target = event.target.closest(SELECTOR);
  if (!target) return;
  for (const [name, act] of Object.entries(CLICKS)) if (name in target.dataset) act(target, event);
}

keepBar();
keepConnection();
keepAttention();
listen();
refreshTimes();
setInterval(refreshTimes, 1000);
document.addEventListener("keydown", keys);
document.addEventListener("click", clicked);
document.addEventListener("submit", listed);
showLater();
