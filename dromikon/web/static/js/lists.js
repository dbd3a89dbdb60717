// Lists: entries edited in place, saved as one change, imported and exported as tables.
"use strict";

document.addEventListener("alpine:init", () => {
  const site = document.body.dataset.site;
  const MOST_SHOWN = 300;
  let counter = 0;

  Alpine.data("lists", () => ({
    entries: [],
    wanted: "",
    dirty: false,
    problems: [],
    newName: "",
    newSort: "plates",
    newProblem: "",

    init() {
      this.id = this.$root.dataset.list;
      this.entries = JSON.parse(document.getElementById("entries").textContent).map((e) => ({ ...e, key: ++counter }));
      window.addEventListener("beforeunload", (e) => { if (this.dirty) e.preventDefault(); });
      document.addEventListener("keydown", (e) => {
        if ((e.ctrlKey || e.metaKey) && e.key === "s") { e.preventDefault(); if (this.dirty) this.save(); }
      });
      dromikon.on("list", (m) => { if (m.subject === this.id && !this.dirty) location.reload(); });
    },

    get matching() {
      const wanted = this.wanted.toLowerCase();
      return !wanted ? this.entries : this.entries.filter((e) => `${e.value} ${e.label || ""} ${e.note || ""}`.toLowerCase().includes(wanted));
    },
    get shown() { return this.matching.slice(0, MOST_SHOWN); },
    get hiddenCount() { return this.matching.length - this.shown.length; },
    get hiddenWords() { return `${this.hiddenCount} more; filter by typing to see them.`; },
    faceWords(e) { return e.template ? "known" : "none"; },

    typed(entry, field, event) {
      if (event.target.value) entry[field] = event.target.value; else delete entry[field];
      this.dirty = true;
    },
    add() {
      this.wanted = "";
      this.entries.unshift({ value: "", key: ++counter });
      this.dirty = true;
      this.$nextTick(() => this.$root.querySelector(".entries input").focus());
    },
    takeOut(entry) {
      const at = this.entries.findIndex((e) => e.key === entry.key);
      const [gone] = this.entries.splice(at, 1);
      this.dirty = true;
      dromikon.toast(`“${gone.label || gone.value}” taken out; save to make it so.`, { undo: () => this.entries.splice(at, 0, gone) });
    },

    async save() {
      const entries = this.entries.map(({ key, ...e }) => e);
      await this.told(() => dromikon.send("POST", `/s/${site}/lists/${this.id}/change`, { entries }), "Saved. Rules compare with it from now on.");
    },
    async importTable(event) {
      const file = event.target.files[0];
      event.target.value = "";
      if (!file) return;
      const upload = async () => {
        const token = document.cookie.split("; ").find((c) => c.startsWith("csrftoken="))?.slice(10) || "";
        const answer = await fetch(`/s/${site}/lists/${this.id}/table`, { method: "POST", headers: { "X-CSRFToken": token, "Content-Type": "text/csv" }, body: file });
        const data = await answer.json().catch(() => ({}));
        if (!answer.ok) throw { problems: data.problems || [], message: data.error || "That did not work." };
      };
      await this.told(upload, `Imported ${file.name}.`);
    },
    async saveSettings(event) {
      const form = event.target;
      const content = { name: form.name.value, source: form.source.value, every: Number(form.every.value) };
      await this.told(() => dromikon.send("POST", `/s/${site}/lists/${this.id}/change`, content), "Kept.");
    },
    async remove() {
      if (!confirm("Delete this list? Rules that name it find nothing in it any more.")) return;
      this.dirty = false;
      await dromikon.send("POST", `/s/${site}/lists/${this.id}/change`, { deleted: true });
      location.href = `/s/${site}/lists`;
    },
    async make() {
      try {
        const made = await dromikon.send("POST", `/s/${site}/lists/new`, { name: this.newName, sort: this.newSort });
        location.href = `/s/${site}/lists/${made.id}`;
      } catch (error) {
        this.newProblem = (error.problems || []).map((p) => p.message).join(" ") || error.message;
      }
    },
    async told(verb, words) {
      this.problems = [];
      try {
        await verb();
        this.dirty = false;
        dromikon.toastLater(words);
        location.reload();
      } catch (error) {
        this.problems = (error.problems || []).length ? error.problems.slice(0, 12) : [{ path: "", message: error.message }];
      }
    },
  }));
});
