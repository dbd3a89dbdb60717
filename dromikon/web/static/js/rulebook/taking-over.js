// A file of rules: tried first, what this site does not have is bound to what it has, and then taken over.
import { call } from "../kit/ask.js";
import { toastLater } from "../kit/toasts.js";
import { t } from "../kit/words.js";

const MOST_PROBLEMS = 12;

export const takingOver = {
  file: null, would: null, missing: [],

  takeOver(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    Object.assign(this, { problems: [], file, missing: [] });
    this.tryFile();
  },
  /** What would come of it, as it is bound now. */
  async tryFile() {
    try {
      this.would = await call("importRules", { query: this.asked({ trial: true }), file: this.file });
      const chosen = new Map(this.missing.map((m) => [`${m.what}:${m.id}`, m.here]));
      const left = this.would.missing.map((m) => ({ ...m, here: "" }));
      // What was bound before stays to be seen, and to be bound otherwise.
      const bound = this.missing.filter((m) => m.here && !left.some((l) => l.what === m.what && l.id === m.id));
      this.missing = [...bound, ...left.map((m) => ({ ...m, here: chosen.get(`${m.what}:${m.id}`) || "" }))];
      this.$nextTick(() => this.$root.querySelector("[data-taking] button")?.scrollIntoView({ block: "nearest" }));
    } catch (error) { this.refusedFile(error); }
  },
  bindMissing(event, one) {
    one.here = event.target.value;
    this.tryFile();
  },
  asked(more = {}) {
    return { ...more, bind: this.missing.filter((m) => m.here).map((m) => `${m.what}:${m.id}=${m.here}`) };
  },
  get wouldWords() {
    if (!this.would) return "";
    const { made, changed, same } = this.would;
    const counts = { made: made.length, changed: changed.length, same: same.length };
    return t("{made} new, {changed} changed, {same} the same.", counts);
  },
  get takingName() { return this.file?.name || ""; },
  leaveFile() { Object.assign(this, { file: null, would: null, missing: [] }); },
  async takeFile() {
    try {
      const done = await call("importRules", { query: this.asked(), file: this.file });
      const off = done.left_off.length;
      const more = off ? ` ${t("{count} stay off until their checks are mended.", { count: off })}` : "";
      toastLater(`${t("Taken over:")} ${this.wouldWords}${more}`);
      location.reload();
    } catch (error) { this.refusedFile(error); }
  },
  refusedFile(error) {
    const problems = error.problems?.length ? error.problems : [{ path: "", message: error.message }];
    this.leaveFile();
    this.problems = problems.slice(0, MOST_PROBLEMS);
  },
};
