// Whether the page still hears of what happens: said at once when it does not, and what was missed when it is back.
import { noteServerTime, now } from "./clock.js";
import { on, onAny } from "./feed.js";
import { wall } from "./times.js";
import { t } from "./words.js";

/** The engine's pulse comes once a second; so many ms without it are a lost connection. */
const SILENCE = 6_000;
const KEPT = "heard";
const back = [];
let heard = now(), lost = false, wrong = 0;

/** Be told when the connection is back, with since when it was away. */
export const onBack = (does) => back.push(does);

/** When this tab last heard of anything, also before it was loaded anew; 0 where it never did. */
export const lastHeard = () => Number(sessionStorage.getItem(KEPT) || 0);

export function keepConnection() {
  onAny(hear);
  on("pulse", ({ data }) => { wrong = data.now ? noteServerTime(data.now) : 0; });
  setInterval(look, 1000);
}

function hear() {
  const since = heard;
  heard = now();
  sessionStorage.setItem(KEPT, String(heard));
  if (!lost) return;
  lost = false;
  for (const does of back) does(since);
}

function look() {
  if (now() - heard > SILENCE && document.body.dataset.site) lost = true;
  const place = document.querySelector("[data-connection]");
  if (!place) return;
  place.hidden = !lost && !wrong;
  if (lost) place.textContent = t("Not connected since {time}. Trying again …", { time: wall(heard, false, true) });
  else if (wrong) place.textContent = t("The clock of this computer is wrong. Times here are the server's.");
}
