// Rulebook: filter by typing, switch rules on and off, with undo.
"use strict";

document.addEventListener("alpine:init", () => {
  const site = document.body.dataset.site;
  Alpine.data("rulebook", () => ({
    init() { this.$root.addEventListener("change", (e) => { if (e.target.dataset.switch) this.toggle(e.target); }); },
    filter(e) {
      const wanted = e.target.value.toLowerCase();
      for (const row of this.$root.querySelectorAll("[data-rule]")) row.hidden = !row.textContent.toLowerCase().includes(wanted);
      for (const group of this.$root.querySelectorAll("[data-group]")) group.hidden = ![...group.querySelectorAll("[data-rule]")].some((r) => !r.hidden);
    },
    problems: [],
    /** A file is tried first; when it can be taken over, it is said what that does before it is done. */
    async takeOver(event) {
      const file = event.target.files[0];
      event.target.value = "";
      if (!file) return;
      this.problems = [];
      try {
        const would = await this.post(file, "?trial=1");
        const words = [`${would.made.length} new`, `${would.changed.length} changed`, `${would.same.length} the same`];
        if (!confirm(`Take over ${file.name}? ${words.join(", ")}.`)) return;
        const done = await this.post(file, "");
        const off = done.left_off.length ? ` ${done.left_off.length} stay off until their checks are mended.` : "";
        dromikon.toastLater(`Taken over: ${words.join(", ")}.${off}`);
        location.reload();
      } catch (error) {
        this.problems = (error.problems || [{ path: "", message: error.message }]).slice(0, 12);
      }
    },
    async post(file, query) {
      const token = document.cookie.split("; ").find((c) => c.startsWith("csrftoken="))?.slice(10) || "";
      const answer = await fetch(`/s/${site}/rulebook/file${query}`, { method: "POST", headers: { "X-CSRFToken": token, "Content-Type": "application/octet-stream" }, body: file });
      const data = await answer.json().catch(() => ({}));
      if (!answer.ok) throw { problems: data.problems || [{ path: "", message: data.error || "That did not work." }] };
      return data;
    },
    async toggle(box, quiet = false) {
      const row = box.closest("[data-rule]");
      try {
        await dromikon.send("POST", `/s/${site}/rulebook/${box.dataset.switch}/switch`, { on: box.checked });
        row.classList.toggle("off", !box.checked);
        const name = row.querySelector("h3").textContent;
        if (!quiet) dromikon.toast(`“${name}” is ${box.checked ? "on" : "off"}.`, { undo: () => { box.checked = !box.checked; this.toggle(box, true); } });
      } catch (error) {
        box.checked = !box.checked;
        dromikon.toast((error.problems || []).map((p) => p.message).join(" ") || error.message, { bad: true, seconds: 10 });
      }
    },
  }));
});
