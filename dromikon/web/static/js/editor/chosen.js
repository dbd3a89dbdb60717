// A run of the strip that was chosen: its picture, what the draft makes of it and why, and whether that is right.
import { el, button } from "../form/dom.js";
import { copy } from "../form/paths.js";
import { addressOf, call } from "../kit/ask.js";
import { openSheet } from "../kit/sheets.js";
import { symbol } from "../kit/svg.js";
import { wall } from "../kit/times.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

const PICTURE = 320;

export const chosen = {
  marks: [],
  mark: null,

  choose(mark) {
    this.mark = mark;
    this.drawRehearsal();
    this.explainMark();
  },
  /** The one before or behind, by the keyboard. */
  step(by) {
    if (!this.marks.length) return;
    const at = this.mark ? this.marks.indexOf(this.mark) : by > 0 ? -1 : this.marks.length;
    this.choose(this.marks[Math.max(0, Math.min(this.marks.length - 1, at + by))]);
  },
  stripKeys(e) {
    const does = {
      ArrowRight: () => this.step(1), ArrowLeft: () => this.step(-1), Home: () => this.step(-this.marks.length),
      End: () => this.step(this.marks.length), Enter: () => this.mark && this.openMark(),
    }[e.key];
    if (!does) return;
    e.preventDefault();
    does();
  },
  openMark() { openSheet(addressOf("event", { event: this.mark.event }), `event-${this.mark.event}`); },

  async explainMark() {
    const place = this.$root.querySelector("[data-chosen-run]"), { mark } = this;
    if (!mark) { place.replaceChildren(); return; }
    const content = { document: copy({ ...this.doc, name: this.doc.name || "unnamed" }), event: mark.event };
    const told = await call("explain", { content: { ...content, rule: this.rule || null } }).catch(() => null);
    if (mark === this.mark) place.replaceChildren(picture(this, mark), this.reasons(mark, told));
  },

  reasons(mark, told) {
    const head = el("p", {},
      el("strong", {}, wall(mark.zero, true, true)), ` ${this.pointName(mark.point)} `,
      el("span", { class: "quiet" }, mark.words));
    const lines = (told?.lines || []).map((line) =>
      el("div", { class: `trace-line ${line.held === false ? "no" : line.held ? "yes" : ""}` },
        el("span", {}, symbol(line.held === false ? "x" : line.held ? "check" : "clock")),
        el("span", {}, line.label), el("span", {}, line.seen), el("span", { class: "quiet" }, line.wanted)));
    const made = el("p", {}, t("The draft: {outcome}", { outcome: told ? told.words : t("could not be asked") }));
    return el("div", { class: "grow" }, head, made, lines, this.judging(mark));
  },

  judging(mark) {
    const open = button("mark|open", t("Open the event"), () => this.openMark(), { class: "btn small" });
    const tries = () => this.tryEvent(mark.event);
    const again = button("mark|try", t("Test with this event"), tries, { class: "btn small" });
    if (!this.rule) return el("p", { class: "row wrap" }, open, again);
    const is = (fires) => String(mark.example?.fires === fires);
    const say = (fires, words) =>
      button(`mark|${fires}`, words, () => this.judge(mark, mark.example?.fires === fires ? null : fires), {
        class: "btn small", "aria-pressed": is(fires),
      });
    const both = [say(true, t("It should fire here")), say(false, t("It should not fire here"))];
    return el("p", { class: "row wrap" }, open, again, both);
  },

  async judge(mark, fires) {
    try {
      await call("markEvent", { places: { rule: this.rule, event: mark.event }, content: { fires } });
      const kept = t("Kept as an example: every later revision is measured by it.");
      toast(fires === null ? t("No example any more.") : kept);
      await this.rehearse();
      const again = this.marks.find((m) => m.event === mark.event && m.point === mark.point);
      if (again) this.choose(again);
    } catch (error) { toast(error.message, { bad: true }); }
  },
};

function picture(editor, mark) {
  const camera = editor.cameraOf(mark.point);
  if (!camera) return el("span", { class: "quiet" }, t("No camera looks there."));
  const src = addressOf("picture", { camera }, { at: mark.zero, width: PICTURE });
  return el("img", { src, width: PICTURE, alt: t("The moment of the event") });
}
