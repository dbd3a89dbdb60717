// The tables below the lanes: the latest events and lines, which grow by themselves.
import { fragment } from "../kit/ask.js";
import { refreshTimes } from "../kit/times.js";
import { t } from "../kit/words.js";

const MOST_ROWS = 60;

export const rows = {
  wanted: "",
  /** Which stretch is listed: [start, end], or none while the latest are. */
  listed: null,

  get listWords() { return this.live ? t("Latest events") : t("The last events of this time"); },

  get recent() { return this.$root.querySelector("[data-recent]"); },

  /** The list is of the time that the lanes show. */
  async listStretch() {
    const stretch = this.live ? null : [Math.floor(this.end - this.span), Math.ceil(this.end)];
    const wanted = String(stretch);
    if (wanted === String(this.listed)) return;
    this.listed = stretch;
    const fresh = await fragment("recent", {}, stretch ? { start: stretch[0], end: stretch[1] } : undefined);
    if (!fresh || wanted !== String(this.listed)) return;
    this.recent.replaceChildren(fresh);
    for (const row of this.recent.children) row.hidden = !this.matches(row);
    refreshTimes(this.recent);
  },
  /** What came meanwhile is put in; rows that are there stay as they are, with their focus. */
  async addRows() {
    if (this.listed) return;
    const fresh = await fragment("recent");
    if (!fresh) return;
    const newest = Number(this.recent.querySelector("[data-event]")?.dataset.event || 0);
    const added = [...fresh.querySelectorAll("[data-event]")].filter((row) => Number(row.dataset.event) > newest);
    if (!added.length) return;
    for (const row of added) {
      row.classList.add("arrive");
      row.hidden = !this.matches(row);
    }
    this.recent.querySelector("tr:not([data-event])")?.remove();
    this.recent.prepend(...added);
    for (const row of [...this.recent.children].slice(MOST_ROWS)) row.remove();
    refreshTimes(this.recent);
  },
  async addLines() {
    const fresh = await fragment("lines");
    if (!fresh) return;
    const lines = this.$root.querySelector("[data-lines]");
    lines.replaceChildren(fresh);
    refreshTimes(lines);
  },
  filter(e) {
    this.wanted = e.target.value.toLowerCase();
    for (const row of this.recent.children) row.hidden = !this.matches(row);
  },
  matches(row) { return !this.wanted || row.textContent.toLowerCase().includes(this.wanted); },
};
