// The past week beside the draft: words of the rehearsal, and asking for it.
import { copy } from "../form/paths.js";
import { drawSweep, drawWeek, firstNumber, listen } from "./rehearsal.js";

const PARTS = { hours: "turned away by the hours", hold_off: "ignored by the hold-off" };
const day = (at) => dromikon.wall(at, true, false).split(",")[0];

export const past = {
  rehearsal: null,
  rehearsing: false,
  rehearsalFailed: false,
  share: 0,
  sweep: null,

  get rehearsalState() {
    if (this.rehearsalFailed) return "could not be rehearsed";
    return this.rehearsing ? (this.share ? `rehearsing … ${Math.round(this.share * 100)} %` : "rehearsing …") : "";
  },
  get rehearsalCount() { return this.rehearsal ? `${this.rehearsal.count} run${this.rehearsal.count === 1 ? "" : "s"}` : ""; },
  get rehearsalBeside() {
    const r = this.rehearsal;
    return !r || r.same === null ? "" : `beside the live revision: ${r.new.length} new, ${r.gone.length} gone, ${r.same} the same`;
  },
  get rehearsalWords() { return `Runs by day of the past week. ${this.rehearsalCount} ${this.rehearsalBeside}`; },
  get sweepWords() { return this.sweep ? this.sweep.points.map(([v, n]) => `${v}: ${n} runs`).join(", ") : ""; },
  get turnedAway() {
    if (!this.rehearsal) return [];
    const asked = this.rehearsal.turned_away_words;
    const words = (part) => PARTS[part] || `turned away: ${asked[part] || part}`;
    return Object.entries(this.rehearsal.turned_away).slice(0, 4).map(([part, count]) => ({ part, count, words: words(part) }));
  },

  async rehearse() {
    const number = firstNumber(this.doc.provided, this.form.scope("provided").fields);
    const asked = (this.asked = (this.asked || 0) + 1);
    const content = { document: copy({ ...this.doc, name: this.doc.name || "unnamed" }), rule: this.rule || null };
    this.rehearsing = true;
    // A newer draft ends the rehearsal of the older one.
    if (this.leave) this.leave.abort();
    this.leave = new AbortController();
    const ask = (more) =>
      listen(`${this.base}/rehearse`, { ...content, ...more }, this.leave.signal, (share) => { this.share = share; }).catch(() => null);
    const answer = await ask({});
    if (this.asked !== asked) return;
    Object.assign(this, { rehearsal: answer, rehearsalFailed: !answer });
    if (answer) this.$nextTick(() => this.drawRehearsal());
    // The count first; how it moves takes a little longer.
    const swept = answer && number ? await ask({ rule: null, sweep: { path: number.path, values: number.values } }) : null;
    if (this.asked !== asked) return;
    Object.assign(this, { rehearsing: false, share: 0, sweep: swept ? { ...number, points: swept.sweep } : null });
    if (swept) this.$nextTick(() => this.drawRehearsal());
  },

  drawRehearsal() {
    // The page may have been left while the rehearsal went on.
    if (!this.$root || !this.rehearsal) return;
    drawWeek(this.$root.querySelector("[data-rehearsal]"), this.rehearsal.by_hour, day);
    const chart = this.$root.querySelector("[data-sweep]");
    if (chart && this.sweep) drawSweep(chart, this.sweep);
  },
};
