// What one does with a rule: save it, switch it, delete it, try one of its calls.
import { copy } from "../form/paths.js";
import { addressOf, call } from "../kit/ask.js";
import { toast, toastLater } from "../kit/toasts.js";
import { t } from "../kit/words.js";

export const verbs = {
  get here() { return { rule: this.rule }; },

  async save() {
    // A second click while the first is under way would make a second rule.
    if (!this.canSave) return;
    this.saving = true;
    const content = { document: copy(this.doc), revision: this.revision };
    try {
      const saved = await call(this.rule ? "replaceRule" : "makeRule", { places: this.here, content });
      this.dirty = false;
      if (!this.rule) {
        toastLater(t("Saved. Switch it on when the checks are clean."));
        location.href = addressOf("rule", { rule: saved.id });
        return;
      }
      this.revision = saved.revision;
      toast(t("Saved as revision {n}.", { n: saved.revision }));
    } catch (error) {
      this.found(error.problems || []);
      toast(this.problems.length ? t("Not saved: see what is marked.") : error.message, { bad: true, seconds: 10 });
    }
    this.saving = false;
  },

  async toggle(e) {
    const enabled = e.target.checked;
    try {
      const state = await call("switchRule", { places: this.here, content: { enabled } });
      this.enabled = state.enabled;
      const off = t("Off. Pending steps are dropped, held outputs released.");
      toast(enabled ? t("On. It decides from the next event.") : off);
    } catch (error) {
      e.target.checked = !enabled;
      toast(error.message, { bad: true, seconds: 10 });
    }
  },

  async remove() {
    await call("deleteRule", { places: this.here });
    this.dirty = false;
    this.enabled = this.may = false;
    const undo = async () => {
      await call("restoreRule", { places: this.here });
      this.may = true;
      toast(t("Back in the Rulebook, switched off."));
    };
    toast(t("Deleted and switched off. Its history stays."), { seconds: 12, undo });
  },

  async muteMe(e) {
    const muted = e.target.checked;
    try {
      await call("muteRule", { places: this.here, content: { muted } });
      toast(muted ? t("You hear nothing of it by mail, text, push or call.") : t("You hear of it again."));
    } catch (error) {
      e.target.checked = !muted;
      toast(error.message, { bad: true });
    }
  },

  canTry(f) { return f.check === "not-tested" && Boolean(this.rule) && !this.dirty; },

  async tryCall(f) {
    try {
      await call("tryStep", { places: { ...this.here, step: f.path.split(".")[1] } });
      toast(t("A test call is on its way; the check goes when it has been answered."));
      setTimeout(() => this.preview(), 2500);
    } catch (error) { toast(error.message, { bad: true }); }
  },
};
