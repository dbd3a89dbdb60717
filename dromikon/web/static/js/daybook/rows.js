// The tables below the lanes: the latest events and lines, which grow by themselves.
import { fragment } from "../kit/ask.js";
import { refreshTimes } from "../kit/times.js";

const MOST_ROWS = 60;

export const rows = {
  wanted: "",

  get recent() { return this.$root.querySelector("[data-recent]"); },

  async addRow(event) {
    const row = (await fragment("eventRow", { event }))?.firstElementChild;
    if (!row || this.recent.querySelector(`[data-event="${event}"]`)) return;
    const after = [...this.recent.children].find((r) => Number(r.dataset.event) < Number(event));
    this.recent.insertBefore(row, after || null);
    row.classList.add("arrive");
    row.hidden = !this.matches(row);
    while (this.recent.children.length > MOST_ROWS) this.recent.lastElementChild.remove();
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
