// What the server says of a draft: how it reads, when things happen, and what a colleague would say.
import { copy } from "../form/paths.js";
import { call } from "../kit/ask.js";
import { wall } from "../kit/times.js";
import { t, tn } from "../kit/words.js";
import { labelOf } from "./cards.js";
import { drawSentence } from "./sentence.js";

/** A pause before a draft that was read is set beside the other rules, in ms. */
const LATER = 300;

export const readings = {
  findings: [], changes: [], reads: [], readsAt: 0, problems: [], failed: "",

  async preview() {
    if (!this.doc.cause) return;
    const asked = (this.askedPreview = (this.askedPreview || 0) + 1);
    // Both at once: what cannot be read cannot be rehearsed either, and says so itself.
    if (this.may) this.rehearse();
    const content = { document: { ...copy(this.doc), name: this.doc.name || "unnamed" }, rule: this.rule || null };
    const answer = await call("preview", { content }).catch((error) => ({ failed: error.message }));
    // What comes late is of an older draft, or of a page that is being left.
    if (asked === this.askedPreview && this.$root) this.previewed(answer);
  },
  previewed(answer) {
    const words = "This draft could not be checked just now ({why}). What is shown is older.";
    this.failed = answer.failed ? t(words, { why: answer.failed }) : "";
    if (!this.failed) this.found([...answer.problems, ...this.nameless]);
    if (this.failed || answer.problems.length) {
      this.forgetRehearsal();
      Object.assign(this, { findings: [], reads: [] });
      return;
    }
    drawSentence(this.$root.querySelector("[data-sentence]"), answer.sentence);
    const { findings, changes, reads } = answer;
    Object.assign(this, { findings, changes, reads: reads.texts, readsAt: reads.at });
    this.raw.words = answer.words;
    this.raw.plan.plan = answer.plan;
    this.dress();
    clearTimeout(this.besideTimer);
    if (this.may) this.besideTimer = setTimeout(() => { this.beside(); this.testAgain(); }, LATER);
  },
  /** What is found beside the other rules takes longer; it joins what is found of this one alone. */
  async beside() {
    const asked = this.askedPreview, document = { ...copy(this.doc), name: this.doc.name || "unnamed" };
    const content = { document, rule: this.rule || null };
    const found = await call("beside", { content }).catch(() => []);
    if (asked !== this.askedPreview) return;
    this.findings = [...this.findings, ...found];
    this.dress();
  },
  /** Those of parts that are closed: an open one has them at their places. */
  get shownProblems() {
    const closed = this.problems.filter((p) => !this.opened || !`${p.path}.`.startsWith(`${this.opened}.`));
    return closed.map((p) => ({ ...p, label: labelOf(p.path, { doc: this.doc, forms: this.form.forms }) }));
  },
  goToProblem({ path }) { this.goTo(path.split(".").slice(0, path.startsWith("response.") ? 2 : 1).join(".")); },
  get findingsWords() { return tn("{count} finding", "{count} findings", this.findings.length); },
  get findingsLook() { return this.findings.some((f) => f.severity === "error") ? "state bad" : "state wait"; },
  toFinding() {
    const [first] = this.findings, path = first.path.split(".").slice(0, first.path.startsWith("response.") ? 2 : 1);
    this.goTo(path.join("."));
  },
  get readsWhen() {
    return this.readsAt ? t("on the last event, {time}", { time: wall(this.readsAt, true, true) }) : "";
  },
  get nameless() {
    const wanted = !this.doc.name && (this.dirty || this.proposed);
    return wanted ? [{ path: "name", message: t("Give the rule a name.") }] : [];
  },
  found(problems) {
    this.problems = problems;
    this.form.mark(problems);
    this.dress();
  },
};
