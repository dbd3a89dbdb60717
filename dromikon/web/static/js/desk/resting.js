// Cards when they have settled: who has which, how many are chosen, what stands below them.
import { fragment } from "../kit/ask.js";
import { lastHeard } from "../kit/connection.js";
import { now } from "../kit/clock.js";
import { refreshTimes } from "../kit/times.js";
import { put } from "./cards.js";
import { showWhose } from "./handling.js";
import { atZero } from "./strips.js";

/** A page that was away for longer than this says what it has missed, in ms. */
const AWAY = 15_000;
const list = () => document.querySelector("[data-alarms]");

export const resting = {
  settle() {
    const beyond = Number(document.querySelector("[data-more]").dataset.beyond);
    document.querySelector("[data-quiet]").hidden = list().children.length > 0 || beyond > 0;
    if (!list().querySelector(".current")) list().firstElementChild?.classList.add("current");
    refreshTimes(list());
    showWhose(list(), this.$root.dataset.person);
    this.count();
    this.stills.watch(list());
    atZero(list());
    this.tick();
  },
  /** The alarms that wait, as the server has them: what has no card yet gets one, and what is beyond is listed. Cards
   *  that are there stay as they are, with whatever somebody types. */
  async refreshCards() {
    const fresh = await fragment("cards").catch(() => null);
    if (!fresh) return;
    const wanted = [...fresh.querySelector("[data-alarms]").children];
    const there = new Set(wanted.map((c) => c.dataset.alarm));
    for (const card of [...list().children]) {
      const answered = card.classList.contains("is-answered"), typing = card.contains(document.activeElement);
      if (!there.has(card.dataset.alarm) && !answered && !typing) card.remove();
    }
    for (const card of wanted) {
      if (!list().querySelector(`[data-alarm="${CSS.escape(card.dataset.alarm)}"]`)) put(list(), card);
    }
    document.querySelector("[data-more]").replaceWith(fresh.querySelector("[data-more]"));
    this.settle();
  },
  /** After a sleep, or when it was loaded anew: what came since this tab last heard of anything. */
  missedSince() {
    const since = lastHeard();
    if (since && now() - since > AWAY) this.markMissed(since);
  },
};
