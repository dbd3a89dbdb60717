// Daybook: lanes by area over time. Marks above a lane's line are events, below it what the system did.
"use strict";

document.addEventListener("alpine:init", () => {
  const site = document.body.dataset.site;
  const json = (id) => JSON.parse(document.getElementById(id).textContent);
  const LEFT = 132, TOP = 26, MAX_SPAN = 13 * 864e5, MIN_SPAN = 30e3;

  Alpine.data("daybook", () => ({
    span: Number(sessionStorage.getItem("daybook-span")) || 36e5,
    end: Date.now(),
    live: true,
    get livePressed() { return String(this.live); },
    get rangeWords() { return `${dromikon.wall(this.end - this.span, true, true)} – ${this.live ? "now" : dromikon.wall(this.end, true, true)}`; },

    init() {
      Object.assign(this, { lanes: json("lanes"), names: json("point-names"), kinds: json("kinds"), events: [], runs: [], loaded: null, chosen: null });
      this.laneOf = new Map(this.lanes.flatMap((lane, i) => lane.points.map((p) => [p, i])));
      // Many lanes are lower, so that a site fits on a page.
      this.tall = this.lanes.length > 5 ? 62 : 104;
      this.canvas = this.$root.querySelector("[data-canvas]");
      const at = Number(new URL(location.href).searchParams.get("at"));
      if (at) { this.live = false; this.end = at + this.span / 2; }
      this.bind();
      this.load();
      setInterval(() => { if (this.live) { this.end = Date.now(); this.draw(); } }, 250);
      document.addEventListener("theme", () => this.draw());
      window.addEventListener("resize", () => this.draw());
      dromikon.on("event", (m) => this.arrived(m));
      dromikon.on("run", () => this.soon());
      dromikon.on("line", () => this.addLines());
      dromikon.on("reload", () => this.load());
      const open = new URL(location.href).searchParams.get("open") || "";
      if (open.startsWith("event-")) dromikon.openSheet(`/s/${site}/daybook/event/${open.slice(6)}`, open);
      this.marksSpan();
    },

    bind() {
      let grabbed = null;
      this.canvas.addEventListener("pointerdown", (e) => { grabbed = { x: e.offsetX, end: this.end, moved: false }; this.canvas.setPointerCapture(e.pointerId); });
      this.canvas.addEventListener("pointermove", (e) => {
        if (!grabbed) return this.hover(e);
        const moved = e.offsetX - grabbed.x;
        if (Math.abs(moved) > 3) grabbed.moved = true;
        if (grabbed.moved) this.moveTo(grabbed.end - (moved / (this.canvas.clientWidth - LEFT)) * this.span);
      });
      this.canvas.addEventListener("pointerup", (e) => { if (grabbed && !grabbed.moved) this.click(e); grabbed = null; });
      this.canvas.addEventListener("wheel", (e) => {
        e.preventDefault();
        this.zoom(e.deltaY > 0 ? 1.25 : 0.8, this.axis.at(e.offsetX));
      }, { passive: false });
      this.canvas.addEventListener("keydown", (e) => this.key(e));
    },

    key(e) {
      if (e.key === "ArrowLeft" || e.key === "ArrowRight") { e.preventDefault(); this.moveTo(this.end + (e.key === "ArrowRight" ? 1 : -1) * this.span * 0.15); }
      else if (e.key === "+" || e.key === "=") this.zoom(0.6, this.live ? this.end : this.end - this.span / 2);
      else if (e.key === "-") this.zoom(1.6, this.live ? this.end : this.end - this.span / 2);
      else if (e.key === "l") this.goLive();
      else if (e.key === "," || e.key === ".") this.step(e.key === "." ? 1 : -1);
      else if (e.key === "Enter" && this.chosen) this.open(this.chosen);
    },

    step(way) {
      const runs = [...this.runs].sort((a, b) => a[3] - b[3]);
      if (!runs.length) return;
      const at = runs.findIndex((r) => r[4] === this.chosen);
      const next = runs[Math.max(0, Math.min(runs.length - 1, at < 0 ? runs.length - 1 : at + way))];
      this.chosen = next[4];
      this.say(`${next[1]} · ${this.names[next[2]] || next[2]} · ${dromikon.wall(next[3], true, true)}`);
      this.draw();
    },

    moveTo(end) {
      const now = Date.now();
      this.end = Math.min(end, now);
      this.live = end >= now - this.span * 0.002;
      this.draw();
      this.soon();
    },
    zoom(factor, around) {
      const span = Math.max(MIN_SPAN, Math.min(MAX_SPAN, this.span * factor));
      const share = (this.end - around) / this.span;
      this.span = span;
      sessionStorage.setItem("daybook-span", span);
      this.marksSpan();
      this.moveTo(this.live ? Date.now() : around + share * span);
    },
    setSpan(e) { this.zoom(Number(e.target.dataset.span) / this.span, this.live ? this.end : this.end - this.span / 2); },
    marksSpan() { for (const b of this.$root.querySelectorAll("[data-span]")) b.setAttribute("aria-pressed", String(Math.abs(Number(b.dataset.span) - this.span) < 1000)); },
    goLive() { this.live = true; this.end = Date.now(); this.load(); },

    soon() { clearTimeout(this.timer); this.timer = setTimeout(() => this.load(), 180); },
    async load() {
      const start = Math.floor(this.end - this.span * 1.3), end = Math.ceil(this.end + this.span * 0.3);
      const answer = await fetch(`/s/${site}/daybook/marks?start=${start}&end=${Math.min(end, start + 14 * 864e5)}`);
      if (!answer.ok) return;
      Object.assign(this, await answer.json());
      this.draw();
    },
    arrived(message) {
      const d = message.data;
      this.events.unshift([d.seq, d.kind, d.point, d.phase, d.at, false]);
      this.draw();
      this.addRow(d.seq);
    },
    async addRow(seq) {
      const answer = await fetch(`/s/${site}/daybook/row/${seq}`);
      const rows = this.$root.querySelector("[data-recent]");
      if (!answer.ok || rows.querySelector(`[data-event="${seq}"]`)) return;
      const holder = document.createElement("template");
      holder.innerHTML = (await answer.text()).trim();
      const row = holder.content.firstElementChild;
      const after = [...rows.children].find((r) => Number(r.dataset.event) < Number(seq));
      rows.insertBefore(row, after || null);
      row.classList.add("arrive");
      row.hidden = !this.matches(row);
      while (rows.children.length > 60) rows.lastElementChild.remove();
    },
    async addLines() {
      const answer = await fetch(`/s/${site}/daybook/lines`);
      if (!answer.ok) return;
      const rows = this.$root.querySelector("[data-lines]");
      rows.innerHTML = await answer.text();
      dromikon.refreshTimes(rows);
    },
    filter(e) { this.wanted = e.target.value.toLowerCase(); for (const row of this.$root.querySelectorAll("[data-recent] tr")) row.hidden = !this.matches(row); },
    matches(row) { return !this.wanted || row.textContent.toLowerCase().includes(this.wanted); },

    // -- drawing ------------------------------------------------------------------------------------------------------
    draw() {
      const height = TOP + this.lanes.length * this.tall + 6;
      this.canvas.style.height = `${height}px`;
      const { pen, width } = dromikonAxis.prepare(this.canvas, height);
      const t = dromikonAxis.theme();
      const axis = (this.axis = new dromikonAxis.Axis(this.end - this.span, this.end, LEFT, width - LEFT - 14));
      this.spots = [];
      const { step, found } = axis.ticks();
      pen.fillStyle = t.quiet; pen.strokeStyle = t.line; pen.lineWidth = 1; pen.textAlign = "center";
      for (const at of found) {
        const x = Math.round(axis.x(at)) + 0.5;
        if (x < LEFT) continue;
        pen.beginPath(); pen.moveTo(x, TOP - 4); pen.lineTo(x, height); pen.stroke();
        if (x > LEFT + 20 && x < width - 20) pen.fillText(axis.label(at, step), x, 15);
      }
      this.lanes.forEach((lane, i) => this.lane(pen, t, axis, lane, i, width));
      const now = axis.x(Date.now());
      if (now <= width) { pen.fillStyle = t.own; pen.fillRect(Math.round(now) - 1, TOP - 4, 2, height - TOP); }
    },

    lane(pen, t, axis, lane, i, width) {
      const top = TOP + i * this.tall, line = top + Math.round(this.tall * 0.58);
      pen.fillStyle = t.lane; pen.fillRect(LEFT, top + 4, width - LEFT, this.tall - 8);
      pen.strokeStyle = t.line_strong; pen.beginPath(); pen.moveTo(LEFT, line + 0.5); pen.lineTo(width, line + 0.5); pen.stroke();
      pen.fillStyle = t.ink; pen.textAlign = "left"; pen.font = '600 13.5px "Atkinson", sans-serif';
      pen.fillText(lane.name, 12, line - 6, LEFT - 20);
      pen.font = '12px "Atkinson", sans-serif'; pen.fillStyle = t.quiet;
      const here = new Set(lane.points);
      const events = this.events.filter((e) => here.has(e[2]) && e[4] >= axis.start && e[4] <= axis.end);
      const runs = this.runs.filter((r) => here.has(r[2]) && r[3] >= axis.start && r[3] <= axis.end);
      pen.fillText(`${events.length} events, ${runs.length} runs`, 12, line + 12, LEFT - 20);
      this.states(pen, t, axis, events, line);
      this.marks(pen, t, axis, events, line);
      this.responses(pen, t, axis, runs, line);
    },

    /** States as bars from begin to end. */
    states(pen, t, axis, events, line) {
      const open = new Map();
      for (const [, kind, point, phase, at] of [...events].sort((a, b) => a[4] - b[4])) {
        const key = `${kind}@${point}`;
        if (phase === "begin") open.set(key, at);
        if (phase === "end") {
          const x = axis.x(open.get(key) ?? axis.start);
          pen.fillStyle = kind === "device.lost" ? t.alert : t.wait_fill; pen.globalAlpha = 0.55;
          if (open.has(key)) pen.fillRect(Math.max(x, LEFT), line - 5, Math.max(2, axis.x(at) - x), 4);
          pen.globalAlpha = 1; open.delete(key);
        }
      }
      for (const [key, at] of open) { pen.fillStyle = key.startsWith("device.lost") ? t.alert : t.wait_fill; pen.fillRect(axis.x(at), line - 5, Math.max(2, axis.x(Math.min(Date.now(), axis.end)) - axis.x(at)), 4); }
    },

    /** One stem for each event; where there are many, stems gather to columns whose height is their number. */
    marks(pen, t, axis, events, line) {
      const columns = new Map();
      for (const e of events) {
        if (e[3] === "end") continue;
        const x = Math.round(axis.x(e[4]) / 4) * 4;
        if (!columns.has(x)) columns.set(x, []);
        columns.get(x).push(e);
      }
      for (const [x, gathered] of columns) {
        const tall = Math.min(this.tall * 0.42, 12 + 5 * Math.log2(gathered.length));
        const state = this.kinds[gathered[0][1]]?.state;
        pen.fillStyle = gathered.some((e) => e[1] === "device.lost") ? t.alert : state ? t.wait : t.ink;
        pen.globalAlpha = 0.8; pen.fillRect(x - 1, line - tall, 2, tall - 1); pen.globalAlpha = 1;
        pen.beginPath(); pen.arc(x, line - tall, gathered.length > 1 ? 3.2 : 2.6, 0, 7); pen.fill();
        this.spots.push({ x, y0: line - 48, y1: line, event: gathered[0][0], count: gathered.length, text: this.words(gathered) });
      }
    },

    responses(pen, t, axis, runs, line) {
      const columns = new Map();
      for (const r of runs) {
        const x = Math.round(axis.x(r[3]) / 8) * 8;
        if (!columns.has(x)) columns.set(x, []);
        columns.get(x).push(r);
      }
      for (const [x, gathered] of columns) {
        const alarm = gathered.some((r) => r[5].includes("alarm"));
        const chosen = gathered.some((r) => r[4] === this.chosen);
        pen.fillStyle = alarm ? t.own : t.good;
        pen.fillRect(x - 1, line + 2, 2, 12);
        pen.beginPath();
        if (alarm) { pen.moveTo(x - 6, line + 12); pen.lineTo(x + 6, line + 12); pen.lineTo(x + 6, line + 18); pen.lineTo(x, line + 25); pen.lineTo(x - 6, line + 18); }
        else pen.rect(x - 4, line + 12, 8, 8);
        pen.fill();
        if (chosen) { pen.strokeStyle = t.ink; pen.lineWidth = 2; pen.strokeRect(x - 9, line + 8, 18, 21); pen.lineWidth = 1; }
        const text = gathered.slice(0, 3).map((r) => `${r[1]} → ${r[5].join(", ") || "…"}`).join("   ·   ");
        this.spots.push({ x, y0: line, y1: line + 30, event: gathered[0][4], count: gathered.length, text: `${dromikon.wall(gathered[0][3], false, true)}  ${text}${gathered.length > 3 ? ` and ${gathered.length - 3} more` : ""}` });
      }
    },

    words(gathered) {
      const [, kind, point, phase, at] = gathered[0];
      const first = `${dromikon.wall(at, false, true)}  ${this.names[point] || point}: ${this.kinds[kind]?.label || kind}${phase === "begin" ? " begins" : ""}`;
      return gathered.length > 1 ? `${first} and ${gathered.length - 1} more within moments` : first;
    },
    spot(e) {
      const near = this.spots.filter((s) => Math.abs(s.x - e.offsetX) < 7 && e.offsetY >= s.y0 && e.offsetY <= s.y1);
      return near.sort((a, b) => Math.abs(a.x - e.offsetX) - Math.abs(b.x - e.offsetX))[0];
    },
    hover(e) {
      const spot = this.spot(e);
      this.canvas.style.cursor = spot ? "pointer" : "";
      this.say(spot ? spot.text : "\u00a0");
    },
    say(text) { this.$root.querySelector("[data-hover]").textContent = text; },
    click(e) {
      const spot = this.spot(e);
      if (!spot) return;
      if (spot.count > 6 && this.span > 3e5) this.zoomInto(this.axis.at(spot.x));
      else this.open(spot.event);
    },
    zoomInto(at) { this.live = false; this.span = Math.max(3e5, this.span / 6); this.end = Math.min(Date.now(), at + this.span / 2); this.marksSpan(); this.draw(); this.soon(); },
    open(event) { dromikon.openSheet(`/s/${site}/daybook/event/${event}`, `event-${event}`); },
  }));
});
