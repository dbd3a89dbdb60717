// Sources: filter, the device form, and points that a device offers.
"use strict";

document.addEventListener("alpine:init", () => {
  Alpine.data("sources", () => ({
    init() {
      document.addEventListener("submit", (e) => { if (e.target.matches("[data-device-form]")) this.save(e); });
      document.addEventListener("click", (e) => { if (e.target.dataset && e.target.dataset.adopt) this.adopt(e.target); });
      let timer = null;
      dromikon.on("device", () => { if (!document.querySelector(".drawer")) { clearTimeout(timer); timer = setTimeout(() => location.reload(), 400); } });
    },
    filter(e) {
      const wanted = e.target.value.toLowerCase();
      for (const d of this.$root.querySelectorAll("[data-device]")) d.hidden = !d.textContent.toLowerCase().includes(wanted);
    },
    async save(event) {
      event.preventDefault();
      const form = event.target;
      for (const p of form.querySelectorAll("[data-problem]")) p.textContent = "";
      const content = { name: form.elements.namedItem("name").value, address: form.elements.namedItem("address").value, user: form.user.value, password: form.password.value, area: form.area.value, enabled: form.enabled.checked };
      try {
        await dromikon.send("POST", form.dataset.url, content);
        dromikon.toastLater("Saved. Its session starts within a second.");
        location.href = location.pathname;
      } catch (error) {
        for (const p of error.problems || []) { const place = form.querySelector(`[data-problem="${p.path}"]`); if (place) place.textContent = p.message; }
        if (!(error.problems || []).length) dromikon.toast(error.message, { bad: true });
        else form.elements.namedItem(error.problems[0].path)?.focus();
      }
    },
    async adopt(button) {
      try {
        const point = await dromikon.send("POST", button.dataset.url, { token: button.dataset.adopt });
        button.closest("tr").remove();
        dromikon.toast(point.recorded === false ? "It is a point now, but no recorder records it: no pictures from before." : "It is a point now; rules can name it.");
      } catch (error) { dromikon.toast(error.message, { bad: true }); }
    },
  }));
});
