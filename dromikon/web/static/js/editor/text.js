// The rule as its document: YAML with line numbers, and problems at their lines.
import { copy } from "../form/paths.js";
import { call } from "../kit/ask.js";
import { t } from "../kit/words.js";

const SOON = 250;

export const text = {
  view: "parts", text: "", textProblems: [],

  get lineNumbers() {
    const wrong = new Set(this.textProblems.map((p) => p.line));
    return this.text.split("\n").map((_, i) => (wrong.has(i + 1) ? `! ${i + 1}` : i + 1)).join("\n");
  },

  showParts() {
    this.view = "parts";
    this.form.redraw();
  },
  async showDocument() {
    const { text } = await call("ruleText", { content: { document: copy(this.doc) } });
    Object.assign(this, { text, textProblems: [], view: "document" });
  },
  textChanged() {
    clearTimeout(this.reading);
    this.reading = setTimeout(() => this.readText(), SOON);
  },
  async readText() {
    const asked = (this.askedText = (this.askedText || 0) + 1), before = this.text;
    const answer = await call("readText", { content: { text: before } }).catch((error) => ({ failed: error.message }));
    if (asked !== this.askedText || before !== this.text) return;
    this.textProblems = answer.failed ? [{ line: 0, path: "", message: answer.failed }] : answer.problems;
    if (answer.failed || !answer.document) return;
    this.show({ response: [], ...answer.document });
    this.changed();
  },
  lineWords({ line }) { return t("Line {n}", { n: line }); },
  /** Puts the cursor at a line. */
  goToLine(problem) {
    const area = this.$root.querySelector("[data-text]"), lines = this.text.split("\n");
    const begin = lines.slice(0, Math.max(0, problem.line - 1)).reduce((sum, l) => sum + l.length + 1, 0);
    area.focus();
    area.setSelectionRange(begin, begin + (lines[problem.line - 1] || "").length);
    area.scrollTop = Math.max(0, (problem.line - 6) * (area.scrollHeight / lines.length));
  },
  alongside(e) { this.$root.querySelector("[data-lines]").scrollTop = e.target.scrollTop; },
};
