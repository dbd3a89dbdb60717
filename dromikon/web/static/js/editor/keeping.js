// What is not saved is not lost: a copy in this browser, and what somebody else has saved meanwhile.
import { copy } from "../form/paths.js";
import { call } from "../kit/ask.js";
import { page } from "../kit/page.js";
import { relative } from "../kit/times.js";
import { t } from "../kit/words.js";

/** A copy is kept so long, in ms. */
const KEPT = 14 * 86_400_000;

export const keeping = {
  left: null, other: null,

  get shelf() { return `rule|${this.$root.dataset.person}|${page.site}|${this.rule || "new"}`; },

  /** Anything that was left here, unless it is what the page has anyway. */
  findLeft() {
    const kept = this.readShelf(), same = kept && JSON.stringify(kept.doc) === JSON.stringify(this.doc);
    if (!kept || same || Date.now() - kept.at > KEPT) { this.clearShelf(); return; }
    this.left = { __v_skip: true, ...kept };
  },
  readShelf() {
    try { return JSON.parse(localStorage.getItem(this.shelf)); } catch { return null; }
  },
  keepCopy() {
    const kept = { doc: copy(this.doc), revision: this.revision, at: Date.now() };
    // A full or forbidden store is no reason to stop anybody from editing.
    try { localStorage.setItem(this.shelf, JSON.stringify(kept)); } catch { /* nothing is kept here */ }
  },
  clearShelf() { try { localStorage.removeItem(this.shelf); } catch { /* there was none */ } },
  get leftWords() {
    if (!this.left) return "";
    const words = t("You left this with changes that were not saved ({ago}).", { ago: relative(this.left.at) });
    const older = this.left.revision !== this.revision;
    return older ? `${words} ${t("The rule has been saved since; save shows the difference.")}` : words;
  },
  bringLeftBack() {
    this.revision = this.left.revision;
    this.show(copy(this.left.doc));
    this.left = null;
    this.changed();
  },
  letLeftGo() {
    this.left = null;
    this.clearShelf();
  },

  // -- two at once ---------------------------------------------------------------------------------------------------
  async seeOther() {
    const content = { document: copy(this.doc), revision: this.revision };
    const told = await call("meanwhile", { places: this.here, content });
    this.other = { ...told, ago: relative(Date.parse(told.at)) };
  },
  get otherWords() {
    const { by, revision, ago } = this.other || {};
    return t("{by} has saved revision {n} meanwhile ({ago}). Nothing of yours is saved yet.", { by, n: revision, ago });
  },
  gone(words) { return words || t("taken out"); },
  /** What they saved stays among the revisions. */
  async saveOver() {
    this.revision = this.other.revision;
    this.other = null;
    await this.save();
  },
  async takeTheirs() {
    const { revision } = this.other;
    this.other = null;
    await this.bringBack(revision);
    this.revision = revision;
  },
};
