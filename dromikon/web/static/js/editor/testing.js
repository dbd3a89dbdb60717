// Testing the rule that is edited: events put to it without doing anything, or for real, and kept as cases.
import { copy } from "../form/paths.js";
import { call } from "../kit/ask.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { drawPlan } from "./test-plan.js";

const BLANK = { at: "", mode: "", answered: "" };

export const testing = {
  testOpen: false, pairs: [], testEvents: [], setting: { ...BLANK }, tried: null, testProblems: [],
  cases: [], caseName: "", lasts: 10,

  async openTest() {
    this.testOpen = true;
    await this.proposeTest();
    await this.checkCases();
  },
  /** What the cause is about may have changed; what somebody has typed stays. */
  async proposeTest(event = null) {
    try {
      const found = await call("proposeTest", { content: { document: this.unnamed(), event } });
      this.pairs = found.pairs;
      if ((event || !this.testEvents.length) && found.event) this.testEvents = [made(found.event, 0)];
      await this.tryIt();
    } catch (error) { this.testFailed(error); }
  },
  unnamed() { return copy({ ...this.doc, name: this.doc.name || "unnamed" }); },
  keyOf(one) { return `${one.kind}@${one.point}`; },
  pairOf(one) { return this.pairs.find((p) => p.kind === one.kind && p.point === one.point); },
  fieldsOf(one) { return this.pairOf(one)?.fields || []; },
  phasesOf(one) { return this.pairOf(one)?.phases || [one.phase]; },
  phaseWords(phase) {
    return { begin: t("begins"), end: t("ends"), pulse: t("happens"), reading: t("is read") }[phase];
  },
  fieldValue(one, field) { return one.fields[field.name] ?? ""; },
  fieldWords(field) { return field.unit ? `${field.label} (${field.unit})` : field.label; },
  isChosen(value, other) { return value === other; },

  choosePair(one, event) {
    const [kind, point] = event.target.value.split("@");
    Object.assign(one, { kind, point, fields: {}, of: null });
    one.phase = this.phasesOf(one)[0];
    for (const field of this.fieldsOf(one)) if (field.choices.length) one.fields[field.name] = field.choices[0];
    this.tryIt();
  },
  typeField(one, field, event) {
    const text = event.target.value;
    if (text === "") delete one.fields[field.name];
    else one.fields[field.name] = field.numeric ? Number(text) : text;
    this.tryIt();
  },
  typeAfter(one, event) { one.after = Number(event.target.value) || 0; this.tryIt(); },
  typePhase(one, event) { one.phase = event.target.value; this.tryIt(); },
  typeSetting(what, event) { this.setting[what] = event.target.value; this.tryIt(); },
  addTestEvent() {
    const last = this.testEvents[this.testEvents.length - 1];
    const first = this.pairs[0] || { kind: "", point: "", phases: ["pulse"] };
    this.testEvents.push(made(last || { ...first, phase: first.phases[0] }, (last?.after || 0) + 5));
    this.tryIt();
  },
  dropTestEvent(i) { this.testEvents.splice(i, 1); this.tryIt(); },
  caseNow() {
    const events = this.testEvents.map(({ key, ...event }) => event);
    const { at, mode, answered } = this.setting;
    return copy({ events, at, mode, answered: answered === "" ? null : Number(answered), ...this.kept });
  },

  /** Put to the draft as it stands; nothing is done. */
  async tryIt() {
    const asked = (this.raw.tried = (this.raw.tried || 0) + 1);
    try {
      const tried = await call("tryRule", { content: { document: this.unnamed(), case: this.caseNow() } });
      if (asked !== this.raw.tried || !this.$root) return;
      Object.assign(this, { tried, testProblems: [] });
      drawPlan(this.$root.querySelector("[data-test-plan]"), tried);
    } catch (error) { if (asked === this.raw.tried) this.testFailed(error); }
  },
  testFailed(error) {
    this.tried = null;
    this.testProblems = error.problems?.length ? error.problems : [{ path: "", message: error.message }];
  },
  get triedLook() { return this.tried?.fired ? "state good" : "state off"; },
  get triedWords() { return this.tried ? this.tried.words : ""; },
  get triedLines() {
    return (this.tried?.verdicts || []).flatMap((v, i) => v.lines.map((line, j) => ({ ...line, key: `${i}.${j}` })));
  },
  lineLook(line) { return `trace-line ${line.held === false ? "no" : line.held ? "yes" : ""}`; },
  lineSign(line) { return line.held === false ? "✕" : line.held ? "✓" : "·"; },

  /** The draft is another now. */
  async testAgain() {
    if (!this.testOpen) return;
    await this.tryIt();
    await this.checkCases();
  },

  // -- for real ------------------------------------------------------------------------------------------------------
  get canTest() {
    return this.may && Boolean(this.rule) && this.whyNotTest === "";
  },
  get whyNotTest() {
    if (!this.rule || !this.enabled) return t("For real: save the rule and switch it on first.");
    if (this.dirty || this.drafted) return t("For real goes the live revision: put this live first.");
    return this.testEvents.length === 1 ? "" : t("For real goes one event at a time.");
  },
  async testForReal() {
    if (!confirm(t("Carry this rule out now? Whatever it does is done, and marked as a test."))) return;
    const [{ kind, point, phase, fields }] = this.testEvents;
    try {
      const content = { event: copy({ kind, point, phase, fields }), lasts: Number(this.lasts) };
      await call("testRule", { places: { rule: this.rule }, content });
      toast(t("Under way, marked as a test: see above what comes of it."));
    } catch (error) { this.testFailed(error); }
  },
  typeLasts(event) { this.lasts = event.target.value; },

  // -- the checklist -------------------------------------------------------------------------------------------------
  async checkCases() {
    if (!this.rule) return;
    const content = { document: this.unnamed() };
    try {
      this.cases = await call("checkCases", { places: { rule: this.rule }, content });
    } catch (error) { this.testFailed(error); }
  },
  get casesWords() {
    if (!this.cases.length) return "";
    return t("{n} of {all} as wanted", { n: this.cases.filter((c) => c.held).length, all: this.cases.length });
  },
  get casesLook() { return this.cases.every((c) => c.held) ? "state good" : "state bad"; },
  caseLook(c) { return c.held ? "state good" : "state bad"; },
  caseWanted(c) { return c.fires ? t("must fire") : t("must not fire"); },
  nameCase(event) { this.caseName = event.target.value; },
  async keepCase(fires) {
    const name = this.caseName || `${this.pairOf(this.testEvents[0] || {})?.words || t("case")}: ${this.triedWords}`;
    try {
      const content = { name: name.slice(0, 200), case: this.caseNow(), fires };
      await call("keepCase", { places: { rule: this.rule }, content });
      this.caseName = "";
      await this.checkCases();
    } catch (error) { this.testFailed(error); }
  },
  keepFiring() { return this.keepCase(true); },
  keepNotFiring() { return this.keepCase(false); },
  loadCase(c) {
    const { events, at, mode, answered, states, counters } = copy(c.case);
    this.testEvents = events.map((one) => made(one, one.after));
    this.setting = { at, mode, answered: answered ?? "" };
    this.kept = { states, counters };
    this.tryIt();
  },
  async dropCase(c) {
    await call("dropCase", { places: { rule: this.rule, case: c.id } });
    await this.checkCases();
  },
  /** From an event of the past week into the test. */
  async tryEvent(event) {
    this.testOpen = true;
    await this.proposeTest(event);
    this.$root.querySelector("[data-testing]").scrollIntoView({ block: "start" });
  },
};

let counter = 0;
const made = ({ kind, point, phase, fields, of = null }, after) => ({
  kind, point, phase, fields: { ...fields }, of, after, key: (counter += 1),
});
