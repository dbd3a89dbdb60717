// Part of the page of one Hours: days that are different, and calendars.
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

const LARGEST = 500_000;

export const different = () => ({
  addDay(day) {
    const known = this.exceptions.findIndex((e) => e.date === day.day);
    if (known < 0) {
      this.exceptions = [...this.exceptions, { date: day?.day || "", why: "", text: "" }];
      if (day?.day) this.changed();
    }
    const at = known < 0 ? this.exceptions.length - 1 : known;
    this.$nextTick(() => this.$root.querySelectorAll("[data-exception]")[at]?.querySelector("[data-first]").focus());
  },
  addEmptyDay() { this.addDay({ day: "" }); },
  typeException(e, field, event) { e[field] = event.target.value; this.changed(); },
  dropDay(i) { this.exceptions = this.exceptions.filter((_, n) => n !== i); this.changed(); },
  exceptionProblem(i) {
    const all = i ? "" : this.problems.find((p) => p.path === "document.exceptions")?.message;
    return this.problemAt(`document.exceptions.${i}`) || all || "";
  },
  async addCalendar(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    if (file.size > LARGEST) { toast(t("The calendar is too large."), { bad: true }); return; }
    const name = file.name.replace(/\.ics$/i, "").slice(0, 120);
    this.calendars = [...this.calendars, { name, text: await file.text(), adds: true }];
    this.changed();
  },
  calendarAdds(i, adds) {
    this.calendars = this.calendars.map((c, n) => (n === i ? { ...c, adds } : c));
    this.changed();
  },
  adds(c) { return c.adds !== false; },
  takesAway(c) { return c.adds === false; },
  dropCalendar(i) { this.calendars = this.calendars.filter((_, n) => n !== i); this.changed(); },
  calendarProblem(i) { return this.problemAt(`document.calendars.${i}`); },
});
