// What one does with a rule: save it, switch it, delete it, try one of its calls.
import { copy } from "../form/paths.js";

const said = (error) => (error.problems || []).map((p) => p.message).join(" ") || error.message;

export const verbs = {
  async save() {
    // A second click while the first is under way would make a second rule.
    if (!this.canSave) return;
    this.saving = true;
    const url = this.rule ? `${this.base}/${this.rule}/save` : `${this.base}/save`;
    try {
      const saved = await dromikon.send("POST", url, { document: copy(this.doc), revision: this.revision });
      this.dirty = false;
      if (!this.rule) {
        dromikon.toastLater("Saved. Switch it on when the checks are clean.");
        location.href = `${this.base}/${saved.id}`;
        return;
      }
      this.revision = saved.revision;
      dromikon.toast(`Saved as revision ${saved.revision}.`);
    } catch (error) {
      this.found(error.problems || []);
      dromikon.toast(this.problems.length ? "Not saved: see what is marked." : error.message, { bad: true, seconds: 10 });
    }
    this.saving = false;
  },

  async toggle(e) {
    const on = e.target.checked;
    try {
      const state = await dromikon.send("POST", `${this.base}/${this.rule}/switch`, { on });
      this.enabled = state.enabled;
      dromikon.toast(on ? "On. It decides from the next event." : "Off. Pending steps are dropped, held outputs released.");
    } catch (error) {
      e.target.checked = !on;
      dromikon.toast(said(error), { bad: true, seconds: 10 });
    }
  },

  async remove() {
    const to = (deleted) => dromikon.send("POST", `${this.base}/${this.rule}/switch`, { deleted });
    await to(true);
    this.dirty = false;
    this.enabled = this.may = false;
    const undo = async () => {
      await to(false);
      this.may = true;
      dromikon.toast("Back in the Rulebook, switched off.");
    };
    dromikon.toast("Deleted and switched off. Its history stays.", { seconds: 12, undo });
  },

  canTry(f) { return f.check === "not-tested" && Boolean(this.rule) && !this.dirty; },

  async tryCall(f) {
    try {
      await dromikon.send("POST", `${this.base}/${this.rule}/try/${f.path.split(".")[1]}`, {});
      dromikon.toast("A test call is on its way; the check goes when it has been answered.");
      setTimeout(() => this.preview(), 2500);
    } catch (error) { dromikon.toast(said(error), { bad: true }); }
  },
};
