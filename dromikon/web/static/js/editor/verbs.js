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
    const content = { document: copy(this.doc), revision: this.revision, live: !this.enabled };
    try {
      const saved = await call(this.rule ? "replaceRule" : "makeRule", { places: this.here, content });
      this.dirty = false;
      this.clearShelf();
      if (!this.rule) {
        toastLater(t("Saved. Switch it on when the checks are clean."));
        location.href = addressOf("rule", { rule: saved.id });
        return;
      }
      this.saved(saved);
      const drafted = t("Draft {n} is kept. The live rule goes on as it is.", { n: this.revision });
      toast(saved.draft ? drafted : t("Saved as revision {n}.", { n: saved.revision }));
    } catch (error) { await this.notSaved(error); }
    this.saving = false;
  },

  /** Whatever the reason, it is still here. */
  async notSaved(error) {
    if (error.status === 409) { await this.seeOther(); return; }
    this.found(error.problems || []);
    const ended = [401, 403].includes(error.status) ? t("What you changed is kept in this browser.") : "";
    const words = this.problems.length ? t("Not saved: see what is marked.") : `${error.message} ${ended}`;
    toast(words, { bad: true, seconds: 10 });
  },
  saved({ revision, draft }) { Object.assign(this, { revision: draft || revision, live: revision }); },

  /** What is not saved yet is saved first. */
  async putLive() {
    if (!this.canPutLive) return;
    if (this.dirty) await this.save();
    if (this.dirty || !this.drafted) return;
    try {
      this.saved(await call("putLive", { places: this.here }));
      toast(t("Live as revision {n}, from the next event on.", { n: this.revision }));
      this.preview();
    } catch (error) {
      this.found(error.problems || []);
      toast(this.problems.length ? t("Not live: see what is marked.") : error.message, { bad: true, seconds: 10 });
    }
  },
  async dropDraft() {
    this.saved(await call("dropDraft", { places: this.here }));
    await this.bringBack(this.live);
    this.dirty = false;
  },
  /** An earlier revision is what is worked on; it can be undone like any change. */
  async bringBack(number) {
    const { document } = await call("revision", { places: { ...this.here, number } });
    this.show({ response: [], ...document });
    this.changed();
    toast(t("Revision {n} is here as a change that is not saved yet.", { n: number }));
  },
  bringBackFrom(e) { this.bringBack(Number(e.target.closest("[data-number]").dataset.number)); },

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
