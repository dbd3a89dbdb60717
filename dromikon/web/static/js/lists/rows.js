// Part of a list's page: its entries, a few hundred at a time, edited in place and saved as one change.
import { addressOf, call } from "../kit/ask.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

const SOON = 150;
let counter = 0;

export const rows = () => ({
  shown: [], count: 0, matching: 0, wanted: "", pictures: {}, dropped: [], edits: 0, saving: false, loading: false,

  get dirty() { return this.edits > 0 || this.dropped.length > 0; },
  get canSave() { return this.dirty && !this.saving; },
  get left() { return this.matching - this.fetched; },
  get fetched() { return this.shown.filter((row) => row.was).length; },
  get leftWords() { return t("{n} more", { n: this.left }); },
  get isEmpty() { return !this.loading && !this.count && !this.shown.length; },
  get foundWords() { return this.wanted ? t("{n} of {all}", { n: this.matching, all: this.count }) : ""; },
  faceWords(row) {
    if (!row.face) return t("none");
    if (row.outdated) return t("to be taken anew");
    return row.faces > 1 ? t("{n} pictures", { n: row.faces }) : t("known");
  },
  faceLook(row) { return row.outdated ? "wait" : row.face ? "good" : "off"; },
  faceTitle(row) {
    const told = [];
    if (row.pictured) told.push(t("taken on {day}", { day: row.pictured }));
    if (row.agreed) told.push(t("agreed on {day}", { day: row.agreed }));
    return told.join(", ");
  },
  pictureOf(row) {
    const snapshot = this.pictures[row.was];
    return snapshot ? addressOf("snapshot", { snapshot }) : "";
  },

  filterRows(event) {
    this.wanted = event.target.value;
    clearTimeout(this.later);
    this.later = setTimeout(() => this.reload(), SOON);
  },
  /** From the first on. What is edited and not saved stays, above what is found. */
  async reload() {
    const edited = this.shown.filter((row) => row.edited);
    await this.fetchRows(0, edited);
  },
  more() { if (this.left > 0 && !this.loading) this.fetchRows(this.fetched, this.shown); },
  async fetchRows(start, before) {
    const asked = (this.asked = (this.asked || 0) + 1);
    this.loading = true;
    try {
      const found = await call("entries", { places: { list: this.id }, query: { wanted: this.wanted, start } });
      if (asked !== this.asked) return;
      const there = new Set([...before.map((row) => row.was), ...this.dropped]);
      const fresh = found.entries.filter((e) => !there.has(e.value)).map((e) => row(e, e.value));
      Object.assign(this, { count: found.count, matching: found.matching });
      this.pictures = start ? { ...this.pictures, ...found.pictures } : found.pictures;
      this.shown = [...before, ...fresh];
    } catch (error) { this.tell(error); }
    this.loading = false;
  },
  /** The rest comes when its place is scrolled to. */
  watchEnd() {
    const end = this.$root.querySelector("[data-end]");
    const came = ([seen]) => { if (seen.isIntersecting) this.more(); };
    new IntersectionObserver(came, { rootMargin: "400px" }).observe(end);
  },

  typed(row, field, event) {
    row[field] = event.target.value;
    if (!row.edited) this.edits += 1;
    row.edited = true;
  },
  add() {
    this.shown = [{ ...row({ value: "" }, ""), edited: true }, ...this.shown];
    this.edits += 1;
    this.$nextTick(() => this.$root.querySelector(".entries tbody input").focus());
  },
  takeOut(row) {
    const at = this.shown.findIndex((r) => r.key === row.key), [gone] = this.shown.splice(at, 1);
    if (gone.was) this.dropped.push(gone.was);
    if (gone.edited) this.edits -= 1;
    const undo = () => {
      this.shown.splice(at, 0, gone);
      this.dropped = this.dropped.filter((value) => value !== gone.was);
      if (gone.edited) this.edits += 1;
    };
    toast(t("“{entry}” taken out; save to make it so.", { entry: gone.label || gone.value }), { undo });
  },
  drop() { Object.assign(this, { edits: 0, dropped: [] }); },

  async erase(row) {
    const value = row.was;
    if (this.dirty) { toast(t("Save first."), { bad: true }); return; }
    if (!confirm(t("Erase “{value}” here and in everything kept: events, traces, pictures?", { value }))) return;
    await this.told("eraseEntry", { content: { value } }, t("“{value}” is erased.", { value }));
  },
  async save() {
    const edited = this.shown.filter((row) => row.edited);
    this.problems = [];
    this.saving = true;
    const put = edited.map((row) => ({ was: row.was, entry: contentOf(row) }));
    try {
      await call("changeEntries", { places: { list: this.id }, content: { put, drop: this.dropped } });
      this.drop();
      this.shown = [];
      toast(t("Saved. Rules compare with it from now on."));
      await this.reload();
    } catch (error) { this.tellOf(edited, error); }
    this.saving = false;
  },
  /** A problem is told by its entry, not by its number among those that were edited. */
  tellOf(edited, error) {
    this.tell(error);
    this.problems = this.problems.map((p) => {
      const [, i, field] = /^put\.(\d+)\.?(.*)$/.exec(p.path) || [];
      return i === undefined ? p : { path: `${edited[i].value || t("new entry")} ${field}`, message: p.message };
    });
  },
});

const row = (entry, was) => ({
  value: "", label: "", note: "", valid_from: "", valid_until: "", ...entry, was, key: (counter += 1), edited: false,
});

function contentOf({ value, label, note, valid_from: from, valid_until: until }) {
  const content = { value, label, note };
  if (from) content.valid_from = from;
  if (until) content.valid_until = until;
  return content;
}
