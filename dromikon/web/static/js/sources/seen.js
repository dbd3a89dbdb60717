// What a camera's analytics see, drawn over its picture while somebody looks on.
import { addressOf } from "../kit/ask.js";
import { boxes } from "../kit/boxes.js";
import { t } from "../kit/words.js";

/** Draw until it is ended; `end` is told when the device ends it, with why. Answers with what ends it. Each frame is
 *  drawn over the picture of its own moment; those that come while a picture is fetched are left out. */
export function lookOn({ place, words, img, places, end }) {
  const stream = new EventSource(addressOf("seen", places));
  let fetching = false;
  const stop = () => { stream.close(); place.replaceChildren(); words.hidden = true; };
  words.hidden = false;
  words.textContent = t("Asking the camera …");
  stream.addEventListener("frame", async (e) => {
    if (fetching) return;
    const { at, seen } = JSON.parse(e.data);
    fetching = true;
    await shown(img, at);
    fetching = false;
    if (stream.readyState === EventSource.CLOSED) return;
    place.replaceChildren(...boxes(seen.map(inShares)));
    words.textContent = counted(seen);
  });
  const over = (why) => { stop(); end(why); };
  stream.addEventListener("trouble", (e) => over(JSON.parse(e.data).why));
  // An event stream that breaks is begun anew by the browser; one that is refused is not.
  stream.addEventListener("error", () => {
    if (stream.readyState === EventSource.CLOSED) over(t("The stream was refused."));
  });
  return stop;
}

/** The picture of a moment, where there is a picture; without one the frame is drawn all the same. */
async function shown(img, at) {
  if (!img) return;
  img.src = `${img.dataset.live}&at=${at}`;
  await img.decode().catch(() => {});
}

/** "2 × Human, 1 × Vehicle". */
export function counted(seen) {
  if (!seen.length) return t("It sees nothing just now.");
  const counts = new Map();
  for (const { kind } of seen) counts.set(kind || "?", (counts.get(kind || "?") || 0) + 1);
  return [...counts].sort(([a], [b]) => a.localeCompare(b)).map(([kind, n]) => `${n} × ${kind}`).join(", ");
}

/** As boxes in shares of the picture, from the device's -1 to 1 (y upwards). */
function inShares({ kind, likelihood, box: [left, top, right, bottom] }) {
  const across = (x) => (x + 1) / 2, down = (y) => (1 - y) / 2;
  return { class: kind, sure: 100 * (likelihood || 0), box: [across(left), down(top), across(right), down(bottom)] };
}
