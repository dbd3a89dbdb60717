// Archive: one camera's time axis with recordings, bookmarks and events; playback from packed frames.
"use strict";

document.addEventListener("alpine:init", () => {
  const site = document.body.dataset.site;
  const RATE = 10, CHUNK = 20e3;

  Alpine.data("archive", () => ({
    camera: "", at: 0, playing: false, speed: 1, problem: "", shown: [], from: 0, to: 0, coverage: [], bookmarks: [], events: [],
    get clock() { return dromikon.wall(this.at, true, true); },
    get rateWords() { return this.playing && this.shown.length > 4 ? `${this.measured.toFixed(0)} pictures/s` : ""; },
    get measured() { const s = this.shown; return s.length < 2 ? 0 : ((s.length - 1) * 1000) / (s[s.length - 1] - s[0]); },
    clipping: false, clipped: 0,
    get clipWords() { return this.clipping ? (this.clipped ? `${(this.clipped / 1e6).toFixed(1)} MB` : "encoding …") : "Clip"; },
    // The clip is read as it is encoded: one sees it grow, and hears what went wrong instead of getting an empty file.
    async clip() {
      this.clipping = true;
      this.clipped = 0;
      this.problem = "";
      try {
        const answer = await fetch(this.clipAddress);
        if (!answer.ok) throw new Error((await answer.json().catch(() => ({}))).error || `The clip was refused (${answer.status}).`);
        const parts = [], reader = answer.body.getReader();
        for (;;) {
          const { value, done } = await reader.read();
          if (done) break;
          parts.push(value);
          this.clipped += value.length;
        }
        const link = document.createElement("a");
        link.href = URL.createObjectURL(new Blob(parts, { type: "video/webm" }));
        link.download = /filename="([^"]+)"/.exec(answer.headers.get("content-disposition") || "")?.[1] || "clip.webm";
        link.click();
        setTimeout(() => URL.revokeObjectURL(link.href), 60e3);
      } catch (error) {
        this.problem = this.clipped ? "The recorder broke off; nothing was kept. Try again." : error.message;
      }
      this.clipping = false;
    },
    get clipAddress() {
      const stretch = this.stretch || { start: Math.round(this.at - 10e3), end: Math.round(this.at + 20e3) };
      return `/s/${site}/export/${this.camera}?start=${stretch.start}&end=${stretch.end}`;
    },

    init() {
      const d = this.$root.dataset;
      this.camera = d.camera;
      this.at = Number(d.at);
      if (d.opened) this.stretch = { start: Number(d.start), zero: Number(d.zero), end: Number(d.end) };
      this.screen = this.$root.querySelector("[data-screen]");
      this.axisCanvas = this.$root.querySelector("[data-axis]");
      const half = this.stretch ? 90e3 : 15 * 60e3;
      this.from = this.at - half; this.to = Math.min(this.at + half, Date.now() + 30e3);
      this.bind();
      this.load();
      this.still();
      document.addEventListener("theme", () => this.draw());
      window.addEventListener("resize", () => this.draw());
      dromikon.on("bookmark", () => this.load());
      if (d.opened || new URL(location.href).searchParams.get("at")) this.play();
    },

    // -- playback ------------------------------------------------------------------------------------------------------
    async still() {
      this.problem = "";
      const answer = await fetch(`/s/${site}/picture/${this.camera}?at=${Math.round(this.at)}&width=960`);
      if (!answer.ok) { this.problem = await answer.text(); this.blank(); return; }
      await dromikonFrames.paint(this.screen, await answer.blob());
    },
    blank() { const pen = this.screen.getContext("2d"); pen.fillStyle = "#0b0d10"; pen.fillRect(0, 0, this.screen.width, this.screen.height); },

    /** Frames are fetched in stretches a little ahead of time and shown when their moment comes. */
    async play() {
      this.halt();
      const stop = (this.stop = new AbortController());
      this.playing = true; this.problem = ""; this.shown = [];
      let base = null, fetched = this.at;
      const due = (at) => base.wall + (at - base.at) / this.speed;
      while (!stop.signal.aborted) {
        const end = Math.min(fetched + CHUNK, Date.now() - 300);
        if (end - fetched < 400) { await new Promise((r) => setTimeout(r, 300)); if (Date.now() - fetched > 2000) continue; if (!this.playing) return; continue; }
        let got = 0;
        try {
          await dromikonFrames.read(`/s/${site}/frames/${this.camera}?start=${Math.round(fetched)}&end=${Math.round(end)}&rate=${RATE}&width=960`, async (_, at, blob) => {
            got += 1;
            base = base || { wall: performance.now(), at };
            const wait = due(at) - performance.now();
            if (wait > 0) await new Promise((r) => setTimeout(r, wait));
            else if (wait < -1500) base = { wall: performance.now(), at };
            if (stop.signal.aborted) return;
            await dromikonFrames.paint(this.screen, blob);
            this.at = at;
            this.shown = [...this.shown.slice(-19), performance.now()];
            this.draw();
          }, stop.signal);
        } catch (error) {
          if (error.name !== "AbortError") { this.problem = error.message; this.halt(); }
          return;
        }
        fetched = end;
        if (!got) {
          const next = this.coverage.find((c) => c.start > fetched);
          if (!next) { this.problem = "The recording ends here."; this.halt(); return; }
          fetched = next.start; base = null;
        }
      }
    },
    halt() { this.stop?.abort(); this.playing = false; },
    toggle() { if (this.playing) this.halt(); else this.play(); },
    seek(at) { const was = this.playing; this.halt(); this.at = Math.min(at, Date.now() - 800); this.keepInView(); this.draw(); if (was) this.play(); else this.still(); },
    back() { this.seek(this.at - 5e3); },
    on() { this.seek(this.at + 5e3); },
    setSpeed(e) { this.speed = Number(e.target.dataset.speed); for (const b of this.$root.querySelectorAll("[data-speed]")) b.setAttribute("aria-pressed", String(b === e.target)); if (this.playing) this.play(); },

    // -- choosing ------------------------------------------------------------------------------------------------------
    chooseCamera(e) {
      this.camera = e.target.dataset.choose;
      this.stretch = null;
      for (const b of this.$root.querySelectorAll("[data-choose]")) b.setAttribute("aria-pressed", String(b === e.target));
      history.replaceState(null, "", dromikon.withParameter("camera", this.camera));
      this.load();
      this.seek(this.at);
    },
    openBookmark(e) {
      const b = e.target.closest("[data-bookmark]");
      const d = b.dataset;
      for (const other of this.$root.querySelectorAll("[data-bookmark]")) other.setAttribute("aria-current", String(other === b));
      for (const c of this.$root.querySelectorAll("[data-choose]")) c.setAttribute("aria-pressed", String(c.dataset.choose === d.bookmarkCamera));
      this.camera = d.bookmarkCamera;
      this.stretch = { start: Number(d.bookmarkStart), zero: Number(d.bookmarkZero), end: Number(d.bookmarkEnd) };
      history.replaceState(null, "", dromikon.withParameter("bookmark", d.bookmark));
      const middle = (this.stretch.start + this.stretch.end) / 2;
      this.from = middle - 90e3; this.to = middle + 90e3;
      this.halt();
      // Ten seconds before the event at least, whatever the bookmark says.
      this.at = Math.min(this.stretch.start, this.stretch.zero - 10e3);
      this.load();
      this.play();
    },
    async mark() {
      const title = `Bookmark at ${dromikon.wall(this.at, false, true)}`;
      try {
        await dromikon.send("POST", `/s/${site}/archive/bookmarks`, { camera: this.camera, start: Math.round(this.at - 10e3), end: Math.round(this.at + 20e3), title, tags: [] });
        dromikon.toast("Bookmarked, from ten seconds before.");
        this.load();
      } catch (error) { dromikon.toast(error.message, { bad: true }); }
    },

    // -- time axis -------------------------------------------------------------------------------------------------------
    bind() {
      let grabbed = null;
      this.axisCanvas.addEventListener("pointerdown", (e) => { grabbed = { x: e.offsetX, from: this.from, to: this.to, moved: false }; this.axisCanvas.setPointerCapture(e.pointerId); });
      this.axisCanvas.addEventListener("pointermove", (e) => {
        if (!grabbed) return;
        if (Math.abs(e.offsetX - grabbed.x) > 4) grabbed.moved = true;
        if (!grabbed.moved) return;
        const shift = ((e.offsetX - grabbed.x) / this.axisCanvas.clientWidth) * (grabbed.to - grabbed.from);
        this.from = grabbed.from - shift; this.to = grabbed.to - shift; this.draw(); this.soon();
      });
      this.axisCanvas.addEventListener("pointerup", (e) => { if (grabbed && !grabbed.moved) this.seek(this.axis.at(e.offsetX)); grabbed = null; });
      this.axisCanvas.addEventListener("wheel", (e) => {
        e.preventDefault();
        const around = this.axis.at(e.offsetX), factor = e.deltaY > 0 ? 1.3 : 0.77;
        if ((this.to - this.from) * factor > 9 * 864e5 || (this.to - this.from) * factor < 20e3) return;
        this.from = around - (around - this.from) * factor; this.to = around + (this.to - around) * factor; this.draw(); this.soon();
      }, { passive: false });
      document.addEventListener("keydown", (e) => {
        if (dromikon.typing(e.target) || e.ctrlKey || e.metaKey || e.altKey) return;
        if (e.key === " " && (e.target.tagName !== "BUTTON" || e.target.dataset.bookmark)) { e.preventDefault(); this.toggle(); }
        else if (e.key === "ArrowLeft") this.back();
        else if (e.key === "ArrowRight") this.on();
        else if (e.key === "," || e.key === ".") { this.halt(); this.seek(this.at + (e.key === "." ? 1000 : -1000) / RATE); }
      });
    },
    keepInView() { const span = this.to - this.from; if (this.at < this.from || this.at > this.to) { this.from = this.at - span / 2; this.to = this.at + span / 2; this.soon(); } },
    soon() { clearTimeout(this.timer); this.timer = setTimeout(() => this.load(), 150); },
    async load() {
      const pad = (this.to - this.from) * 0.5, start = Math.max(0, Math.round(this.from - pad)), end = Math.round(this.to + pad);
      const [axis, coverage] = await Promise.all([fetch(`/s/${site}/archive/${this.camera}/axis?start=${start}&end=${end}`), fetch(`/s/${site}/coverage/${this.camera}?start=${start}&end=${end}`)]);
      if (axis.ok) Object.assign(this, await axis.json());
      if (coverage.ok) { const c = await coverage.json(); this.coverage = c.stretches; if (c.error) this.problem = c.error; }
      this.draw();
    },
    draw() {
      const { pen, width } = dromikonAxis.prepare(this.axisCanvas, 84);
      const t = dromikonAxis.theme();
      const span = this.to - this.from;
      if (this.playing && this.at > this.to - span * 0.1) { this.from += span * 0.5; this.to += span * 0.5; this.soon(); }
      const axis = (this.axis = new dromikonAxis.Axis(this.from, this.to, 0, width));
      const { step, found } = axis.ticks();
      pen.textAlign = "center"; pen.fillStyle = t.quiet; pen.strokeStyle = t.line;
      for (const at of found) { const x = Math.round(axis.x(at)) + 0.5; pen.beginPath(); pen.moveTo(x, 20); pen.lineTo(x, 84); pen.stroke(); pen.fillText(axis.label(at, step), x, 14); }
      pen.fillStyle = t.good; pen.globalAlpha = 0.45;
      for (const c of this.coverage) pen.fillRect(axis.x(c.start), 66, Math.max(1, axis.x(c.end) - axis.x(c.start)), 9);
      pen.globalAlpha = 1; pen.fillStyle = t.ink;
      for (const at of this.events) pen.fillRect(Math.round(axis.x(at)), 54, 1.5, 9);
      for (const b of this.bookmarks) {
        const x = axis.x(b.start), w = Math.max(3, axis.x(b.end) - x);
        pen.fillStyle = t.own; pen.globalAlpha = 0.8; pen.fillRect(x, 28, w, 14); pen.globalAlpha = 1;
        pen.fillStyle = t.wait_fill; pen.fillRect(axis.x(b.zero) - 1, 24, 2, 24);
      }
      pen.fillStyle = t.ink; const x = axis.x(this.at);
      pen.fillRect(x - 1, 18, 2, 66); pen.beginPath(); pen.moveTo(x - 6, 18); pen.lineTo(x + 6, 18); pen.lineTo(x, 27); pen.fill();
    },
  }));
});
