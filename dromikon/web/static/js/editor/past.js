// The past week beside the draft: words of the rehearsal, and asking for it.
import { copy } from "../form/paths.js";
import { day } from "../kit/times.js";
import { t, tn } from "../kit/words.js";
import { drawSweep, drawWeek, firstNumber, rehearsed } from "./rehearsal.js";

const PARTS = { hours: t("turned away by the hours"), hold_off: t("ignored by the hold-off") };
const MOST_PARTS = 4;

export const past = {
  rehearsal: null,
  rehearsing: false,
  rehearsalFailed: false,
  share: 0,
  sweep: null,

  get rehearsalState() {
    if (this.rehearsalFailed) return t("could not be rehearsed");
    if (!this.rehearsing) return "";
    const share = Math.round(this.share * 100);
    return share ? t("rehearsing … {share} %", { share }) : t("rehearsing …");
  },
  get rehearsalCount() { return this.rehearsal ? tn("{count} run", "{count} runs", this.rehearsal.count) : ""; },
  get rehearsalBeside() {
    const r = this.rehearsal;
    if (!r || r.same === null) return "";
    const counts = { added: r.new.length, gone: r.gone.length, same: r.same };
    return t("beside the live revision: {added} new, {gone} gone, {same} the same", counts);
  },
  get rehearsalWords() {
    return [t("Runs by day of the past week."), this.rehearsalCount, this.rehearsalBeside].join(" ");
  },
  get sweepWords() {
    const words = ([value, count]) => `${value}: ${tn("{count} run", "{count} runs", count)}`;
    return this.sweep ? this.sweep.points.map(words).join(", ") : "";
  },
  get turnedAway() {
    if (!this.rehearsal) return [];
    const asked = this.rehearsal.turned_away_words;
    const words = (part) => PARTS[part] || t("turned away: {part}", { part: asked[part] || part });
    const parts = Object.entries(this.rehearsal.turned_away).slice(0, MOST_PARTS);
    return parts.map(([part, count]) => ({ part, count, words: words(part) }));
  },

  async rehearse() {
    const number = firstNumber(this.doc.provided, this.form.scope("provided").fields);
    const asked = (this.asked = (this.asked || 0) + 1);
    const content = { document: copy({ ...this.doc, name: this.doc.name || "unnamed" }), rule: this.rule || null };
    this.rehearsing = true;
    // A newer draft ends the rehearsal of the older one.
    if (this.leave) this.leave.abort();
    this.leave = new AbortController();
    const told = (share) => { this.share = share; };
    const ask = (more) => rehearsed({ ...content, ...more }, this.leave.signal, told).catch(() => null);
    const answer = await ask({});
    if (this.asked !== asked) return;
    Object.assign(this, { rehearsal: answer, rehearsalFailed: !answer });
    if (answer) this.$nextTick(() => this.drawRehearsal());
    // The count first; how it moves takes a little longer.
    const sweep = number && { path: number.path, values: number.values };
    const swept = answer && sweep ? await ask({ rule: null, sweep }) : null;
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
