// One Hours: its weeks painted, days that are different, calendars, and the year that follows from them.
import { History } from "../editor/history.js";
import { addressOf, call } from "../kit/ask.js";
import { component, joined } from "../kit/component.js";
import { dispatch } from "../kit/keys.js";
import { carried } from "../kit/page.js";
import { upcoming } from "../kit/times.js";
import { toast, toastLater } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { different } from "./different.js";
import { Painter } from "./painter.js";
import { DAYS, painted, shown, typed } from "./spans.js";
import { dayOfYear, drawYear } from "./year.js";

const SOON = 150;
const clock = (n) => `${String(Math.floor(n / 60)).padStart(2, "0")}:${String(n % 60).padStart(2, "0")}`;

/** Whether a season holds a day; the first that does counts. */
const holds = ({ start, end }, monthDay) =>
  (start <= end ? start <= monthDay && monthDay <= end : monthDay >= start || monthDay <= end);

const hours = () => ({
  name: "", season: 0, seasons: [], exceptions: [], calendars: [], days: [], year: 0, dirty: false, saving: false,
  problems: [], stands: null, cursorWords: "", undoable: false, redoable: false,
  raw: { __v_skip: true },

  init() {
    const d = this.$root.dataset, [sunrise, sunset] = JSON.parse(d.sun);
    Object.assign(this, { id: d.hours, name: d.name, version: d.version, year: Number(d.year), today: d.today });
    Object.assign(this, { may: d.may === "1", dayNames: JSON.parse(d.days) });
    const paint = (days, from, to, on) => this.paint(days, from, to, on);
    const tracks = [...this.$root.querySelectorAll("[data-track]")];
    const painter = new Painter(tracks, { sun: { sunrise, sunset }, paint, names: this.dayNames });
    this.raw = { __v_skip: true, painter };
    const content = carried("hours-document");
    this.season = (content.seasons || []).findIndex((s) => holds(s, d.today.slice(5)));
    this.take({ name: d.name, ...content });
    this.raw.history = new History(this.state());
    this.$root.addEventListener("told", (e) => this.tellCursor(e.detail));
    document.addEventListener("keydown", (e) => dispatch(e, this.acts()));
    window.addEventListener("beforeunload", (e) => { if (this.dirty) e.preventDefault(); });
    this.draw();
    this.ask();
  },
  acts() {
    return { save: () => this.dirty && this.save(), undo: () => this.undo(), redo: () => this.redo() };
  },

  // -- the document ------------------------------------------------------------------------------------------------
  take({ name, seasons = [], exceptions = [], calendars = [] }) {
    Object.assign(this, { name, seasons, calendars });
    const all = exceptions.map((e) => ({ date: e.date, why: e.why || "", text: shown(e.spans) }));
    // Those to come first: what is over is seldom looked for.
    this.exceptions = [...all.filter((e) => e.date >= this.today), ...all.filter((e) => e.date < this.today)];
    this.season = Math.max(0, Math.min(this.season, seasons.length - 1));
  },
  document() {
    const exceptions = this.exceptions.filter((e) => e.date)
      .map((e) => ({ date: e.date, spans: typed(e.text), why: e.why }));
    return JSON.parse(JSON.stringify({ seasons: this.seasons, exceptions, calendars: this.calendars }));
  },
  state() { return { name: this.name, ...this.document() }; },
  get week() { return this.seasons[this.season]?.week || {}; },
  changed() {
    this.dirty = true;
    this.raw.history.note(this.state());
    this.draw();
    clearTimeout(this.raw.later);
    this.raw.later = setTimeout(() => this.ask(), SOON);
  },
  draw() {
    this.raw.painter.show(this.week);
    this.days = DAYS.map((name, i) => ({ name, label: this.dayNames[i], text: shown(this.week[name]) }));
    Object.assign(this, { undoable: this.raw.history?.canUndo, redoable: this.raw.history?.canRedo });
  },
  undo() { this.back(this.raw.history.undo()); },
  redo() { this.back(this.raw.history.redo()); },
  back(state) {
    if (!state) return;
    this.take(state);
    this.dirty = true;
    this.draw();
    this.ask();
  },

  // -- the week ----------------------------------------------------------------------------------------------------
  paint(days, from, to, on) {
    if (!this.may || !this.seasons.length) return;
    let { week } = this;
    for (const day of days) week = painted(week, day, from, to, on);
    this.setWeek(week);
  },
  setWeek(week) {
    this.seasons[this.season].week = JSON.parse(JSON.stringify(week));
    this.changed();
  },
  typeDay(name, event) {
    const spans = typed(event.target.value), week = { ...this.week, [name]: spans };
    if (!spans.length) delete week[name];
    this.setWeek(week);
  },
  wholeDay(name) { this.setWeek({ ...this.week, [name]: ["00:00-24:00"] }); },
  daylight(name) { this.setWeek({ ...this.week, [name]: ["sunrise-sunset"] }); },
  likeBefore(name) {
    const before = this.week[DAYS[(DAYS.indexOf(name) + 6) % 7]] || [], week = { ...this.week, [name]: [...before] };
    if (!week[name].length) delete week[name];
    this.setWeek(week);
  },
  textOf(day) { return this.days[day]?.text || ""; },
  tellCursor({ from, to, day }) { this.cursorWords = `${this.dayNames[day]} ${clock(from)}–${clock(to)}`; },
  weekProblem(name) { return this.problemAt(`document.seasons.${this.season}.week.${name}`); },
  problemAt(path) {
    return this.problems.find((p) => p.path === path || p.path.startsWith(`${path}.`))?.message || "";
  },

  // -- seasons ------------------------------------------------------------------------------------------------------
  chooseSeason(i) { this.season = i; this.draw(); },
  seasonWords(s) {
    if (s.start === "01-01" && s.end === "12-31") return t("All year");
    return t("{from} to {to}", { from: dayOfYear(s.start), to: dayOfYear(s.end) });
  },
  isSeason(i) { return String(i === this.season); },
  addSeason() {
    // The first that holds a day counts; so a new one stands before the one that holds all the year.
    const week = JSON.parse(JSON.stringify(this.week));
    this.seasons = [{ start: "04-01", end: "10-31", week }, ...this.seasons];
    this.season = 0;
    this.changed();
  },
  dropSeason() {
    this.seasons = this.seasons.filter((_, i) => i !== this.season);
    this.season = 0;
    this.changed();
  },
  get seasonStart() { return this.seasons[this.season]?.start || ""; },
  get seasonEnd() { return this.seasons[this.season]?.end || ""; },
  typeSeason(which, event) { this.seasons[this.season][which] = event.target.value; this.changed(); },
  get seasonProblem() {
    const own = ["start", "end"].map((e) => this.problemAt(`document.seasons.${this.season}.${e}`));
    const both = this.problems.find((p) => p.path === "document.seasons")?.message;
    return own.find(Boolean) || both || "";
  },

  // -- what it means -------------------------------------------------------------------------------------------------
  async ask() {
    const asked = (this.raw.asked = (this.raw.asked || 0) + 1);
    try {
      const told = await call("hoursShown", { content: { document: this.document(), year: this.year } });
      if (asked !== this.raw.asked) return;
      this.problems = [];
      this.stands = told;
      const chosen = (day) => this.may && this.addDay(day);
      drawYear(this.$root.querySelector("[data-year]"), told.days, { today: this.today, chosen });
    } catch (error) { if (asked === this.raw.asked) this.failed(error); }
  },
  failed(error) {
    this.problems = error.problems?.length ? error.problems : [{ path: "", message: error.message }];
  },
  get elsewhere() { return this.problems.filter((p) => !p.path.startsWith("document.")); },
  get nowLook() { return this.stands?.inside ? "state good" : "state off"; },
  get nowWords() {
    if (!this.stands) return "";
    const { inside, until, then_until: then } = this.stands;
    const first = inside ? t("inside now") : t("outside now");
    if (!until) return `${first}, ${t("for more than a year")}`;
    const words = t("{now}, until {until}", { now: first, until: upcoming(Date.parse(until)) });
    if (!then) return words;
    const after = { time: upcoming(Date.parse(then)) };
    return `${words}; ${inside ? t("then outside until {time}", after) : t("then inside until {time}", after)}`;
  },
  earlier() { this.year -= 1; this.ask(); },
  later() { this.year += 1; this.ask(); },

  // -- keeping -------------------------------------------------------------------------------------------------------
  rename(event) { this.name = event.target.value; this.changed(); },
  get canSave() { return this.may && this.dirty && !this.saving; },
  async save() {
    this.saving = true;
    const content = { name: this.name, document: this.document(), version: this.version };
    try {
      const saved = this.id ? await call("replaceHours", { places: { hours: this.id }, content })
        : await call("makeHours", { content });
      this.dirty = false;
      toastLater(t("Saved. Rules count by it from now on."));
      location.href = addressOf("oneHours", { hours: saved.id });
    } catch (error) {
      this.failed(error);
      toast(error.message, { bad: true });
    }
    this.saving = false;
  },
  async remove() {
    if (!confirm(t("Delete these hours? Rules that count by them never count any more."))) return;
    this.dirty = false;
    await call("deleteHours", { places: { hours: this.id } });
    location.href = addressOf("hours");
  },
});

component("hours", () => joined(hours(), different()));
