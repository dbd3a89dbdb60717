// The past week beside the draft: words of the rehearsal, and asking for it.
import { copy } from "../form/paths.js";
import { t, tn } from "../kit/words.js";
import { drawFunnel, funnel } from "./funnel.js";
import { drawSweep, firstNumber, rehearsed } from "./rehearsal.js";
import { drawStrip, marksOf } from "./strip.js";

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
  get funnelWords() {
    const row = ({ words, left, gone }) => `${words}: ${gone ? `−${gone}` : left}`;
    return this.rehearsal ? funnel(this.rehearsal).map(row).join(", ") : "";
  },
  get broken() { return (this.rehearsal?.examples || []).filter((e) => e.held === false).length; },
  get examplesLook() { return this.broken ? "state bad" : "state good"; },
  get examplesWords() {
    const all = (this.rehearsal?.examples || []).filter((e) => e.held !== null).length;
    return all ? t("{held} of {all} examples as they should be", { held: all - this.broken, all }) : "";
  },
  pointName(id) { return this.form.catalogue.points.find((p) => p.id === id)?.name || id || t("the site"); },
  cameraOf(id) { return this.form.catalogue.points.find((p) => p.id === id)?.cameras[0]; },

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
    if (answer) this.rehearsed(answer);
    // The count first; how it moves takes a little longer.
    const sweep = number && { path: number.path, values: number.values };
    const swept = answer && sweep ? await ask({ rule: null, sweep }) : null;
    if (this.asked !== asked) return;
    Object.assign(this, { rehearsing: false, share: 0, sweep: swept ? { ...number, points: swept.sweep } : null });
    if (swept) this.$nextTick(() => this.drawRehearsal());
  },

  /** Whoever had chosen a run still has it, as it is now. */
  rehearsed(report) {
    this.marks = marksOf(report);
    const same = (m) => m.event === this.mark?.event && m.point === this.mark?.point;
    this.mark = this.marks.find(same) || null;
    if (this.mark) this.explainMark();
    this.$nextTick(() => this.drawRehearsal());
  },
  /** Of a draft that cannot be read there is none. */
  forgetRehearsal() {
    this.leave?.abort();
    this.asked = (this.asked || 0) + 1;
    Object.assign(this, { rehearsal: null, sweep: null, rehearsing: false, rehearsalFailed: false });
  },
  drawRehearsal() {
    // The page may have been left while the rehearsal went on.
    if (!this.$root || !this.rehearsal) return;
    const place = (name) => this.$root.querySelector(`[data-${name}]`);
    const nameOf = (id) => this.pointName(id), choose = (mark) => this.choose(mark);
    drawStrip(place("rehearsal"), this.rehearsal, this.marks, { chosen: this.mark, nameOf, choose });
    drawFunnel(place("funnel"), this.rehearsal);
    const chart = place("sweep");
    if (chart && this.sweep) drawSweep(chart, this.sweep);
  },
};
