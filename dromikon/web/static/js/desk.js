// Desk: alarms appear, are answered and go, without reloading the page.
"use strict";

document.addEventListener("alpine:init", () => {
  const site = document.body.dataset.site;
  const list = () => document.querySelector("[data-alarms]");
  const card = (id) => list().querySelector(`[data-alarm="${id}"]`);

  // -- sound: our own tones, made here ---------------------------------------------------------------------------------
  const tones = { // [frequency, start, length] in Hz and s
    chime: [[660, 0, 0.18], [880, 0.2, 0.3]],
    call: [[740, 0, 0.16], [740, 0.24, 0.16], [990, 0.48, 0.34]],
    urgent: [[880, 0, 0.12], [587, 0.14, 0.12], [880, 0.28, 0.12], [587, 0.42, 0.12], [880, 0.56, 0.3]],
  };
  let audio = null;
  function play(name) {
    if (!tones[name] || !navigator.userActivation?.hasBeenActive) return;
    audio = audio || new AudioContext();
    audio.resume();
    for (const [frequency, start, length] of tones[name]) {
      const tone = audio.createOscillator();
      const volume = audio.createGain();
      const at = audio.currentTime + start;
      tone.type = "triangle";
      tone.frequency.value = frequency;
      volume.gain.setValueAtTime(0, at);
      volume.gain.linearRampToValueAtTime(0.22, at + 0.015);
      volume.gain.exponentialRampToValueAtTime(0.001, at + length);
      tone.connect(volume).connect(audio.destination);
      tone.start(at);
      tone.stop(at + length + 0.02);
    }
  }

  Alpine.data("desk", () => ({
    muted: localStorage.getItem("muted") === "1",
    blocked: !navigator.userActivation?.hasBeenActive,
    get soundPressed() { return String(!this.muted); },
    get soundWords() { return this.muted ? "Sound off" : this.blocked ? "Click for sound" : "Sound on"; },

    init() {
      this.live = new dromikonFrames.Live(site, 8, 480);
      this.showings = JSON.parse(document.getElementById("showings").textContent);
      this.notices = JSON.parse(document.getElementById("notices").textContent);
      this.$root.addEventListener("submit", (e) => this.answer(e));
      this.$root.addEventListener("click", (e) => this.press(e));
      document.addEventListener("keydown", (e) => this.keys(e));
      // Browsers let a page sound only after somebody has touched it.
      for (const touch of ["pointerdown", "keydown"]) document.addEventListener(touch, () => { this.blocked = false; }, { once: true });
      dromikon.on("alarm", (m) => this.changed(m.data));
      dromikon.on("showing", () => this.refresh());
      dromikon.on("notice", () => this.refresh());
      dromikon.on("step", (m) => this.stepDone(m.data));
      dromikon.on("reload", () => location.reload());
      this.watchStills();
      this.tick();
      setInterval(() => this.tick(), 500);
    },

    // An alarm was raised, answered, or its condition ended: its card comes with the message, and is put where it belongs.
    async changed(data) {
      const known = card(data.alarm);
      if (!known && data.sound !== "none" && !this.muted) play(data.sound);
      const holder = document.createElement("template");
      holder.innerHTML = (data.card || (await this.cardOf(data.alarm))).trim();
      if (!holder.content.firstElementChild) return;
      const fresh = holder.content.firstElementChild;
      const mine = known && known.dataset.mine === "1";
      const now = card(data.alarm);
      if (fresh.dataset.state === "closed") {
        if (now) {
          now.replaceWith(fresh);
          if (!mine && data.by) dromikon.toast(`${data.by} answered “${fresh.getAttribute("aria-label")}”.`);
          setTimeout(() => { fresh.remove(); this.settle(); }, mine ? 1200 : 4000);
        }
      } else if (now) {
        this.renew(now, fresh);
        if (!mine && data.by) dromikon.toast(`${data.by} answered “${fresh.getAttribute("aria-label")}”.`);
      } else {
        const before = [...list().children].find((c) => this.order(fresh) < this.order(c));
        list().insertBefore(fresh, before || null);
      }
      this.settle();
      this.refresh();
    },

    async cardOf(alarm) {
      const answer = await fetch(`/s/${site}/desk/alarm/${alarm}`, { headers: { "X-Fragment": "1" } });
      return answer.ok ? answer.text() : "";
    },

    // A card that changed while somebody answers it: everything but the form is new, so that words, tags and focus stay.
    renew(now, fresh) {
      const mine = now.querySelector("form[data-answer]"), theirs = fresh.querySelector("form[data-answer]");
      if (!mine || !theirs) { now.replaceWith(fresh); return; }
      for (const { name, value } of fresh.attributes) if (name !== "class") now.setAttribute(name, value);
      now.querySelector("header").replaceWith(fresh.querySelector("header"));
      const strips = [...now.querySelectorAll(".strip")], anew = [...fresh.querySelectorAll(".strip")];
      strips.forEach((strip, i) => { if (anew[i]) strip.replaceWith(anew[i]); });
    },

    order(c) { return (c.dataset.open === "1" ? 0 : 1e16) + Number(c.dataset.rank) * 1e14 - Number(c.dataset.raised); },

    settle() {
      document.querySelector("[data-quiet]").hidden = list().children.length > 0;
      if (!list().querySelector(".current") && list().firstElementChild) list().firstElementChild.classList.add("current");
      dromikon.refreshTimes(list());
      this.watchStills();
      this.tick();
    },

    // Stills that are not copied yet come from the recorder, each as soon as its moment has been recorded.
    watchStills() {
      for (const image of list().querySelectorAll("img[data-src]")) {
        if (image.dataset.asked) continue;
        image.dataset.asked = "1";
        const wait = Math.max(0, Number(image.dataset.stillAt) + 600 - Date.now());
        setTimeout(() => { this.stills.push(image); this.nextStill(); }, wait);
      }
    },

    // Two at a time: a browser has few connections, and the next alarm must not wait for pictures of the last.
    stills: [],
    loading: 0,
    nextStill() {
      while (this.loading < 2 && this.stills.length) {
        const image = this.stills.shift();
        if (!image.isConnected) continue;
        this.loading += 1;
        const done = () => { this.loading -= 1; this.nextStill(); };
        image.addEventListener("load", () => { image.hidden = false; image.nextElementSibling?.remove(); done(); }, { once: true });
        // Not there yet: the recorder needs a moment. It is asked again, more and more seldom.
        image.addEventListener("error", () => { image.removeAttribute("src"); image.hidden = true; this.again(image); done(); }, { once: true });
        image.src = image.dataset.src;
      }
    },

    again(image) {
      image.dataset.tries = String(Number(image.dataset.tries || 0) + 1);
      if (Number(image.dataset.tries) > 6) { if (image.nextElementSibling) image.nextElementSibling.textContent = "no picture"; return; }
      setTimeout(() => { this.stills.push(image); this.nextStill(); }, 1000 * 2 ** Number(image.dataset.tries));
    },

    async refresh() {
      const answer = await fetch(`/s/${site}/desk/state`);
      if (!answer.ok) return;
      const state = await answer.json();
      document.querySelector("[data-load]").innerHTML = state.load;
      this.showings = state.showings;
      this.notices = state.notices;
      this.tick();
    },

    // What is put up, how long it stays; and which canvases live pictures go to.
    tick() {
      const now = Date.now();
      this.showings = this.showings.filter((s) => s.until > now);
      for (const tile of document.querySelectorAll("[data-tile]")) {
        const shown = this.showings.find((s) => s.camera === tile.dataset.tile);
        const why = tile.querySelector(".why");
        tile.querySelector(".tile").classList.toggle("put-up", Boolean(shown));
        why.hidden = !shown;
        if (shown) {
          why.firstElementChild.textContent = shown.title;
          why.lastElementChild.textContent = `${Math.ceil((shown.until - now) / 1000)} s`;
        }
      }
      this.showNotices(now);
      const canvases = new Map();
      for (const canvas of document.querySelectorAll("canvas[data-live]")) {
        if (!canvases.has(canvas.dataset.live)) canvases.set(canvas.dataset.live, []);
        canvases.get(canvas.dataset.live).push(canvas);
      }
      this.live.show(canvases);
    },

    showNotices(now) {
      this.notices = this.notices.filter((n) => n.until > now);
      const box = document.querySelector("[data-notices]");
      const ids = this.notices.map((n) => n.id).join(" ");
      if (box.dataset.shown !== ids) {
        box.dataset.shown = ids;
        box.replaceChildren(...this.notices.map((n) => {
          const line = document.createElement("div");
          line.className = "notice";
          const text = document.createElement("span");
          text.className = "grow";
          text.textContent = n.text;
          const left = document.createElement("span");
          left.className = "figures";
          line.append(text, left);
          return line;
        }));
      }
      this.notices.forEach((n, i) => { box.children[i].lastElementChild.textContent = `${Math.ceil((n.until - now) / 1000)} s`; });
    },

    async answer(event) {
      const form = event.target.closest("form[data-answer]");
      if (!form) return;
      event.preventDefault();
      const own = form.closest("[data-alarm]");
      for (const problem of form.querySelectorAll("[data-problem]")) problem.textContent = "";
      const button = form.querySelector("button");
      button.disabled = true;
      own.dataset.mine = "1";
      try {
        const tags = form.tags.value.split(",").map((t) => t.trim()).filter(Boolean);
        const done = await dromikon.send("POST", `/s/${site}/desk/alarm/${form.dataset.answer}/acknowledge`, { note: form.note.value, tags });
        const said = form.note.value.trim() || tags.length;
        const where = done.bookmarks ? "The bookmark carries your words." : "Your words are kept with the alarm; the Archive's search finds them.";
        dromikon.toast(said ? `Acknowledged. ${where}` : "Acknowledged.");
      } catch (error) {
        delete own.dataset.mine;
        button.disabled = false;
        for (const problem of error.problems || []) {
          const place = form.querySelector(`[data-problem="${problem.path}"]`);
          if (place) place.textContent = problem.message;
        }
        const first = (error.problems || [])[0];
        if (first && form.elements[first.path]) form.elements[first.path].focus();
        if (!first) dromikon.toast(error.message, { bad: true });
      }
    },

    async press(event) {
      const button = event.target.closest("[data-press]");
      if (!button) return;
      button.disabled = true;
      try {
        const done = await dromikon.send("POST", `/s/${site}/desk/press/${button.dataset.press}`, {});
        dromikon.toast(`Pressed “${done.pressed}”.`);
      } catch (error) {
        dromikon.toast(error.message, { bad: true });
      }
      setTimeout(() => { button.disabled = false; }, 800);
    },

    stepDone(data) {
      if (data.status === "unconfirmed") dromikon.toast("A device did not confirm a command. The trace in the Daybook says which.", { bad: true });
    },

    toggleSound() {
      this.muted = !this.muted;
      localStorage.setItem("muted", this.muted ? "1" : "0");
      if (!this.muted) play("chime");
    },

    keys(event) {
      if ((event.ctrlKey || event.metaKey) && event.key === "Enter") {
        const form = document.querySelector(".alarm:focus-within form[data-answer], .alarm.current form[data-answer]");
        if (form) form.requestSubmit();
        return;
      }
      if (dromikon.typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
      const cards = [...list().children];
      const at = cards.findIndex((c) => c.classList.contains("current"));
      if (event.key === "j" || event.key === "k") {
        const next = cards[Math.max(0, Math.min(cards.length - 1, at + (event.key === "j" ? 1 : -1)))];
        if (!next) return;
        cards.forEach((c) => c.classList.toggle("current", c === next));
        next.focus({ preventScroll: true });
        next.scrollIntoView({ block: "nearest" });
      } else if (event.key === "n" && cards[at]) {
        const note = cards[at].querySelector("textarea");
        if (note) { event.preventDefault(); note.focus(); }
      } else if (event.key === "m") this.toggleSound();
    },
  }));
});
