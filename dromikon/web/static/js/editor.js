// Rule editor: edits the document; the server says how it reads, when things happen, and what a colleague would say.
"use strict";

document.addEventListener("alpine:init", () => {
  const site = document.body.dataset.site;
  const json = (id) => JSON.parse(document.getElementById(id).textContent);
  const copy = (value) => JSON.parse(JSON.stringify(value));
  let counter = 0;

  Alpine.data("editor", () => ({
    doc: json("document"), catalogue: json("catalogue"), view: "parts", text: "", textProblem: "", pick: "",
    findings: [], problems: [], enabled: false, revision: null, rule: "", may: false, dirty: false, saving: false,
    conditions: [], treeTooRich: false, history: [], future: [], rehearsal: null, rehearsing: false, share: 0, sweep: null,
    asking: json("open-places"),
    priorities: ["critical", "high", "medium", "low"], sounds: ["none", "chime", "call", "urgent"], holdOffPer: ["rule", "point", "area", "field"], failed: "",

    init() {
      const d = this.$root.dataset;
      Object.assign(this, { rule: d.rule, revision: d.revision ? Number(d.revision) : null, enabled: d.enabled === "1", may: d.may === "1" });
      this.doc.response = this.doc.response || [];
      this.readConditions();
      this.history = [JSON.stringify(this.doc)];
      document.addEventListener("keydown", (e) => this.keys(e));
      this.$root.addEventListener("click", (e) => this.follow(e));
      window.addEventListener("beforeunload", (e) => { if (this.dirty && !this.saving) e.preventDefault(); });
      this.preview();
    },

    // -- what is shown ---------------------------------------------------------------------------------------------------
    get kind() {
      const name = this.doc.cause && (this.doc.cause.cause === "button" ? "button.pressed" : this.doc.cause.kind);
      return this.catalogue.kinds.find((k) => k.name === name) || null;
    },
    get hasForm() { return Boolean(this.doc.cause) && this.catalogue.causes.some((c) => c.name === this.doc.cause.cause); },
    get onlyDocument() { return Boolean(this.doc.cause) && !this.hasForm; },
    // A face is compared with a list, which has no form here yet.
    get fields() { return this.kind ? this.kind.fields.filter((f) => f.type !== "template") : []; },
    get proposed() { return !this.rule && Boolean(this.doc.cause); },
    get phases() { return this.kind ? this.kind.phases : []; },
    get relays() { return this.catalogue.points.filter((p) => p.kind === "relay"); },
    get clean() { return !this.failed && !this.findings.length && !this.problems.length && Boolean(this.doc.cause); },
    get canUndo() { return this.history.length > 1; },
    get canSave() { return this.may && (this.dirty || this.proposed) && !this.saving && !this.problems.length && !this.textProblem; },
    get canSwitch() { return this.may && Boolean(this.rule) && !this.dirty; },
    get onWords() { return this.enabled ? "On" : "Off"; },
    get savedWords() { return this.dirty ? "not saved" : this.revision ? `revision ${this.revision}` : "new"; },
    get hoursInside() { return this.doc.hours ? this.doc.hours.inside !== false : null; },
    get hoursId() { return this.doc.hours ? this.doc.hours.hours.id : null; },
    get placesHint() { return `may use ${["point", "area", "time", ...this.fields.map((f) => f.name)].slice(0, 6).map((n) => `{${n}}`).join(" ")}`; },
    hasProblem(path) { return String(this.problems.some((p) => p.path === path)); },
    problemAt(path, exact = false) { const p = this.problems.find((x) => x.path === path || (!exact && x.path.startsWith(path + "."))); return p ? p.message : ""; },
    actionLabel(step) { const a = this.catalogue.actions.find((x) => x.name === step.do); return a ? a.label : step.do; },
    phaseWords(p) { return { begin: "when it begins", end: "when it ends", pulse: "when it happens", reading: "at each reading" }[p]; },
    areaWords(a) { return `anything in ${a.name}`; },
    anyWords(k) { return `any ${k}`; },

    /** Puts what was chosen into every place of the document that waits for it. */
    fill(place, option) {
      const has = place.chosen.includes(option.id);
      place.chosen = !place.many ? [option.id] : has ? place.chosen.filter((id) => id !== option.id) : [...place.chosen, option.id];
      const refs = place.options.filter((o) => place.chosen.includes(o.id)).map(copy);
      for (const path of place.paths) {
        const steps = path.split("."), last = steps.pop();
        let at = this.doc;
        for (const s of steps) at = at && at[s];
        if (at) at[last] = place.many ? refs : refs[0];
      }
      this.doc = copy(this.doc);
      this.changed();
    },

    // -- cause -----------------------------------------------------------------------------------------------------------
    kindsFor(cause) { return this.catalogue.kinds.filter((k) => k.name !== "button.pressed" && (cause !== "lasting" || k.phases.includes("begin"))); },
    setCause(name) {
      const before = this.doc.cause || {};
      const kinds = this.kindsFor(name);
      const kind = kinds.find((k) => k.name === before.kind) || kinds[0];
      const where = name === "button" || before.cause === "button" ? {} : before.where || {};
      this.doc.cause = name === "button" ? { cause: name, where } : name === "lasting" ? { cause: name, kind: kind.name, seconds: 30, where } : { cause: name, kind: kind.name, phase: kind.phases[0], where };
      this.changed();
    },
    kindChanged() {
      if (this.doc.cause.cause === "event" && !this.phases.includes(this.doc.cause.phase)) this.doc.cause.phase = this.phases[0];
      const fits = (id) => { const p = this.catalogue.points.find((x) => x.id === id); return p && this.canSend(p); };
      this.doc.cause.where.points = (this.doc.cause.where.points || []).filter((p) => fits(p.id));
      this.changed();
    },
    // A kind without sorts of point may come from any; what a point is known to send says more than its sort.
    canSend(p) { return p.sends ? p.sends.includes(this.kind.name) : !this.kind.point_kinds.length || this.kind.point_kinds.includes(p.kind); },
    get offers() {
      if (!this.kind || !this.hasForm) return [];
      const wanted = this.pick.toLowerCase();
      const where = this.doc.cause.where;
      const fitting = this.catalogue.points.filter((p) => this.canSend(p));
      const found = [];
      for (const area of this.catalogue.areas) {
        const points = fitting.filter((p) => p.area === area.name && `${p.name} ${area.name}`.toLowerCase().includes(wanted));
        if (!points.length) continue;
        found.push({ key: `h${area.id}`, head: true, name: area.name });
        found.push({ key: `a${area.id}`, name: `Anything in ${area.name}`, detail: "also what is added later", area, chosen: (where.areas || []).some((a) => a.id === area.id) });
        for (const p of points) found.push({ key: p.id, name: p.name, detail: p.waits ? `${p.kind}, watches ${p.waits} s` : p.kind, point: { id: p.id, name: p.name }, chosen: (where.points || []).some((x) => x.id === p.id) });
      }
      if (!found.length) found.push({ key: "none", head: true, name: "Nothing of that name can send this." });
      return found;
    },
    choose(o) { if (o.area) this.toggleArea(o.area); else if (o.point) this.togglePoint(o.point); },
    togglePoint(p) { this.toggleRef("points", { id: p.id, name: p.name }); },
    toggleArea(a) { this.toggleRef("areas", { id: a.id, name: a.name }); },
    togglePointKind(k) { const w = this.doc.cause.where; w.point_kinds = (w.point_kinds || []).filter((x) => x !== k); this.changed(); },
    toggleRef(list, ref) {
      const where = this.doc.cause.where;
      const has = (where[list] || []).some((x) => x.id === ref.id);
      where[list] = has ? where[list].filter((x) => x.id !== ref.id) : [...(where[list] || []), ref];
      this.changed();
    },

    // -- provided: a flat list of comparisons, all of which must hold ------------------------------------------------------
    readConditions() {
      const tree = this.doc.provided;
      const flat = !tree ? [] : tree.test === "field" ? [tree] : tree.test === "all" && tree.of.every((c) => c.test === "field") ? tree.of : null;
      this.treeTooRich = flat === null;
      this.conditions = (flat || []).map((c) => ({ ...copy(c), key: ++counter }));
    },
    writeConditions() {
      const of = this.conditions.map(({ key, ...c }) => c);
      if (!of.length) delete this.doc.provided; else this.doc.provided = of.length === 1 ? of[0] : { test: "all", of };
      this.changed(false);
    },
    fieldOf(c) { return this.fields.find((f) => f.name === c.field) || { type: "text", choices: [], unit: "" }; },
    isNumber(c) { return this.fieldOf(c).type === "number"; },
    unitOf(c) { return this.fieldOf(c).unit; },
    choicesOf(c) { return this.fieldOf(c).choices; },
    operatorsFor(c) {
      const type = this.fieldOf(c).type;
      const names = { number: ["at_least", "at_most", "between", "is"], choice: ["is", "one_of", "is_not"] }[type] || ["is", "is_not", "contains", "matches"];
      return names.map((name) => this.catalogue.operators.find((o) => o.name === name)).filter(Boolean);
    },
    addCondition() {
      const unused = this.fields.find((f) => !this.conditions.some((c) => c.field === f.name)) || this.fields[0];
      if (!unused) return;
      const c = { test: "field", field: unused.name, op: "", value: "", key: ++counter };
      this.conditions.push(c);
      this.fieldChanged(this.conditions[this.conditions.length - 1]);
    },
    removeCondition(i) { this.conditions.splice(i, 1); this.writeConditions(); },
    fieldChanged(c) { c.op = this.operatorsFor(c)[0].name; c.value = this.isNumber(c) ? 50 : this.choicesOf(c)[0] || ""; this.writeConditions(); },
    opChanged(c) {
      const first = Array.isArray(c.value) ? c.value[0] : c.value;
      c.value = c.op === "between" ? [Number(first) || 0, (Number(first) || 0) + 20] : c.op === "one_of" ? [first] : first;
      this.writeConditions();
    },
    hasValue(c, v) { return Array.isArray(c.value) ? c.value.includes(v) : c.value === v; },
    pickValue(c, v) {
      if (c.op === "one_of") { c.value = this.hasValue(c, v) ? c.value.filter((x) => x !== v) : [...c.value, v]; if (!c.value.length) c.value = [v]; } else c.value = v;
      this.writeConditions();
    },
    typed(c, e) { c.value = this.isNumber(c) ? Number(e.target.value) : e.target.value; this.writeConditions(); },
    typedEnd(c, i, e) { const v = [...c.value]; v[i] = Number(e.target.value); c.value = v; this.writeConditions(); },

    // -- hours, hold-off ---------------------------------------------------------------------------------------------------
    setHours(inside) {
      if (inside === null) delete this.doc.hours;
      else if (this.doc.hours) this.doc.hours.inside = inside;
      else if (this.catalogue.hours.length) this.doc.hours = { hours: copy(this.catalogue.hours[0]), inside };
      this.doc = copy(this.doc);
      this.changed();
    },
    pickHours(h) { this.doc.hours.hours = copy(h); this.changed(); },
    toggleHoldOff() { if (this.doc.hold_off) delete this.doc.hold_off; else this.doc.hold_off = { seconds: 60, per: "point" }; this.doc = copy(this.doc); this.changed(); },
    setPer(p) {
      this.doc.hold_off.per = p;
      if (p === "field") this.doc.hold_off.field = (this.fields[0] || { name: "" }).name; else delete this.doc.hold_off.field;
      this.changed();
    },

    // -- response ----------------------------------------------------------------------------------------------------------
    addStep(name) {
      // Who is told is for a person to say: the checks ask for it until somebody has.
      const groups = [];
      const relay = this.relays[0];
      const fresh = { alarm: { title: "{point}", groups }, popup: { groups }, relay: { target: { point: relay ? { id: relay.id, name: relay.name } : { id: "none", name: "" } } }, webhook: { url: "https://" }, http: { url: "https://" }, notice: { text: "{rule}: {point}", groups }, text: { text: "{rule}: {point}", groups }, line: { text: "{rule}: {point}" }, snapshot: { moments: [0] }, mode: { mode: this.catalogue.modes[0] || "none" }, counter: { counter: copy(this.catalogue.counters[0] || { id: "none" }) }, derive: { name: "something" } }[name] || {};
      this.doc.response.push({ do: name, ...fresh });
      this.changed();
    },
    removeStep(i) {
      const [gone] = this.doc.response.splice(i, 1);
      this.changed();
      dromikon.toast(`${this.actionLabel(gone)} taken out.`, { undo: () => { this.doc.response.splice(i, 0, gone); this.changed(); } });
    },
    set(step, field, value) { step[field] = value; this.changed(); },
    setText(step, field, e) { step[field] = e.target.value; this.changed(); },
    setNumber(step, field, e) { step[field] = Number(e.target.value); this.changed(); },
    holdOffThen: [{ name: "ignore", words: "ignore them" }, { name: "join", words: "join them to the alarm" }, { name: "sum", words: "sum them up" }],
    methods: ["GET", "POST", "PUT"],
    shownMoments(step) { return (step.moments || [0]).join(", "); },
    setMoments(step, e) { step.moments = e.target.value.split(",").map((t) => Number(t.trim())).filter((n) => !Number.isNaN(n)); this.changed(); },
    setCounter(step, c) { step.counter = copy(c); this.changed(); },
    setTags(step, e) { step.tags = e.target.value.split(",").map((t) => t.trim().toLowerCase()).filter(Boolean); this.changed(); },
    setAnchor(step, e) { step.anchor = e.target.value; if (step.anchor === "unanswered" && !step.after) step.after = 120; this.changed(); },
    relaySets: [{ name: "hold", words: "hold" }, { name: "on", words: "on" }, { name: "off", words: "off" }, { name: "toggle", words: "toggle" }],
    setRelay(step, how) { step.set = how; if (how !== "hold") { delete step.held; delete step.times; delete step.gap; } this.changed(); },
    canTry(f) { return f.check === "not-tested" && Boolean(this.rule) && !this.dirty; },
    async tryCall(f) {
      const step = f.path.split(".")[1];
      try {
        await dromikon.send("POST", `/s/${site}/rulebook/${this.rule}/try/${step}`, {});
        dromikon.toast("A test call is on its way; the check goes when it has been answered.");
        setTimeout(() => this.preview(), 2500);
      } catch (error) { dromikon.toast((error.problems || []).map((p) => p.message).join(" ") || error.message, { bad: true }); }
    },
    setTarget(step, p) { step.target = { point: { id: p.id, name: p.name } }; this.changed(); },
    shownValue(step, field, standard) { return step[field] === undefined ? standard : step[field]; },
    hasGroup(step, g) { return (step.groups || []).some((x) => x.id === g.id); },
    toggleGroup(step, g) { step.groups = this.hasGroup(step, g) ? step.groups.filter((x) => x.id !== g.id) : [...(step.groups || []), copy(g)]; this.changed(); },

    // -- changes, undo -------------------------------------------------------------------------------------------------------
    changed(reread = true) {
      if (reread !== false && this.view === "parts") this.readWhenNeeded();
      this.dirty = true;
      clearTimeout(this.timer);
      this.timer = setTimeout(() => { this.remember(); this.preview(); }, 130);
    },
    readWhenNeeded() {
      const names = this.fields.map((f) => f.name);
      const kept = this.conditions.filter((c) => names.includes(c.field));
      if (kept.length !== this.conditions.length) { this.conditions = kept; this.writeConditions(); }
    },
    remember() {
      const now = JSON.stringify(this.doc);
      if (now !== this.history[this.history.length - 1]) { this.history.push(now); this.future = []; if (this.history.length > 200) this.history.shift(); }
    },
    undo() { if (this.history.length < 2) return; this.future.push(this.history.pop()); this.restore(this.history[this.history.length - 1]); },
    redo() { if (!this.future.length) return; const next = this.future.pop(); this.history.push(next); this.restore(next); },
    restore(state) { this.doc = JSON.parse(state); this.readConditions(); this.dirty = true; if (this.view === "document") this.text = JSON.stringify(this.doc, null, 2); this.preview(); },

    async preview() {
      if (!this.doc.cause) { this.drawPlan({ bars: [], decided: 0, first: -5, last: 5 }); return; }
      const asked = (this.askedPreview = (this.askedPreview || 0) + 1);
      const answer = await dromikon.send("POST", `/s/${site}/rulebook/preview`, { ...copy(this.doc), name: this.doc.name || "unnamed" }).catch((error) => ({ failed: error.message }));
      // What comes late is of an older draft.
      if (asked !== this.askedPreview) return;
      this.failed = answer.failed ? `This draft could not be checked just now (${answer.failed}). What is shown is older.` : "";
      if (this.failed) { this.findings = []; this.rehearsal = this.sweep = null; return; }
      this.problems = answer.problems;
      if (this.problems.length) { this.findings = []; this.rehearsal = this.sweep = null; }
      if (!this.doc.name && (this.dirty || this.proposed)) this.problems = [...this.problems, { path: "name", message: "Give the rule a name." }];
      if (answer.sentence) this.$root.querySelector("[data-sentence]").innerHTML = answer.sentence;
      if (answer.findings) this.findings = answer.findings;
      if (answer.plan) this.drawPlan(answer.plan);
      if (answer.plan && this.may) { clearTimeout(this.rehearseTimer); this.rehearseTimer = setTimeout(() => this.rehearse(), 250); }
    },

    // -- rehearsal: what the draft would have done in the past week, and how that moves with its first number ------------------
    rehearsalFailed: false,
    get rehearsalState() { return this.rehearsalFailed ? "could not be rehearsed" : this.rehearsing ? (this.share ? `rehearsing … ${Math.round(this.share * 100)} %` : "rehearsing …") : ""; },
    get rehearsalCount() { return this.rehearsal ? `${this.rehearsal.count} run${this.rehearsal.count === 1 ? "" : "s"}` : ""; },
    get rehearsalBeside() {
      const r = this.rehearsal;
      return !r || r.same === null ? "" : `beside the live revision: ${r.new.length} new, ${r.gone.length} gone, ${r.same} the same`;
    },
    get rehearsalWords() { return `Runs by day of the past week. ${this.rehearsalCount} ${this.rehearsalBeside}`; },
    get sweepWords() { return this.sweep ? this.sweep.points.map(([v, n]) => `${v}: ${n} runs`).join(", ") : ""; },
    get turnedAway() {
      if (!this.rehearsal) return [];
      const names = { hours: "turned away by the hours", hold_off: "ignored by the hold-off" };
      const asked = this.rehearsal.turned_away_words;
      return Object.entries(this.rehearsal.turned_away).slice(0, 4).map(([part, count]) => ({ part, count, words: names[part] || `turned away: ${asked[part] || part}` }));
    },
    /** The first number among the conditions, and values around it. */
    firstNumber() {
      const tree = this.doc.provided;
      const leaves = !tree ? [] : tree.test === "field" ? [["provided", tree]] : tree.test === "all" ? tree.of.map((c, i) => [`provided.of.${i}`, c]) : [];
      const found = leaves.find(([, c]) => c.test === "field" && typeof c.value === "number");
      if (!found) return null;
      const field = this.fields.find((f) => f.name === found[1].field);
      const values = field && field.unit === "%" ? [10, 20, 30, 40, 50, 60, 70, 80, 90, 95] : [0.25, 0.5, 0.75, 1, 1.25, 1.5, 2].map((k) => found[1].value * k);
      return { path: `${found[0]}.value`, values, now: found[1].value, words: `Runs by ${field ? field.label : found[1].field}` };
    },
    async rehearse() {
      const number = this.firstNumber();
      this.rehearsing = true;
      const asked = (this.asked = (this.asked || 0) + 1);
      const content = { document: copy({ ...this.doc, name: this.doc.name || "unnamed" }), rule: this.rule || null };
      // A newer number ends the rehearsal of the older one.
      if (this.leave) this.leave.abort();
      this.leave = new AbortController();
      const ask = (more) => this.listen({ ...content, ...more }, this.leave.signal).catch(() => null);
      const answer = await ask({});
      if (this.asked !== asked) return;
      this.rehearsal = answer;
      this.rehearsalFailed = !answer;
      if (!answer) { this.rehearsing = false; this.sweep = null; return; }
      if (!number) this.sweep = null;
      if (answer) this.$nextTick(() => this.drawRehearsal(answer));
      // The count first; how it moves takes a little longer.
      const swept = answer && number ? await ask({ rule: null, sweep: { path: number.path, values: number.values } }) : null;
      if (this.asked !== asked) return;
      this.rehearsing = false;
      this.share = 0;
      this.sweep = swept ? { ...number, points: swept.sweep } : null;
      if (swept) this.$nextTick(() => this.drawRehearsal(answer));
    },
    /** Reads the rehearsal's lines: its progress, and at last its report. */
    async listen(content, signal) {
      const token = document.cookie.split("; ").find((c) => c.startsWith("csrftoken="))?.slice(10) || "";
      const answer = await fetch(`/s/${site}/rulebook/rehearse`, { method: "POST", signal, headers: { "Content-Type": "application/json", "X-CSRFToken": token }, body: JSON.stringify(content) });
      if (!answer.ok) return null;
      const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader();
      let rest = "";
      for (;;) {
        const { value, done } = await reader.read();
        if (done) return null;
        const lines = (rest + value).split("\n");
        rest = lines.pop();
        for (const line of lines.filter(Boolean).map((text) => JSON.parse(text))) {
          if (line.progress !== undefined) this.share = line.progress; else return line.report || null;
        }
      }
    },
    drawRehearsal(r) {
      // The page may have been left while the rehearsal went on.
      if (!this.$root) return;
      const make = (svg, name, attributes, words) => {
        const node = svg.appendChild(document.createElementNS("http://www.w3.org/2000/svg", name));
        for (const [k, v] of Object.entries(attributes)) node.setAttribute(k, v);
        if (words !== undefined) node.textContent = words;
      };
      const week = this.$root.querySelector("[data-rehearsal]");
      week.replaceChildren();
      const days = new Map();
      for (let i = 6; i >= 0; i -= 1) days.set(dromikon.wall(Date.now() - i * 864e5, true, false).split(",")[0], 0);
      for (const [hour, count] of Object.entries(r.by_hour)) { const day = dromikon.wall(Date.parse(hour), true, false).split(",")[0]; if (days.has(day)) days.set(day, days.get(day) + count); }
      const most = Math.max(4, ...days.values());
      [...days].forEach(([day, count], i) => {
        const height = (count / most) * 34;
        make(week, "rect", { x: 8 + i * 54, y: 46 - height, width: 40, height: Math.max(1, height), class: "act" });
        make(week, "text", { x: 28 + i * 54, y: 60, "text-anchor": "middle", class: "tick" }, day);
        if (count) make(week, "text", { x: 28 + i * 54, y: 42 - height, "text-anchor": "middle" }, count);
      });
      const chart = this.$root.querySelector("[data-sweep]");
      if (!chart || !this.sweep) return;
      chart.replaceChildren();
      const points = this.sweep.points, top = Math.max(1, ...points.map((p) => p[1]));
      const low = points[0][0], high = points[points.length - 1][0];
      const x = (v) => 8 + ((v - low) / (high - low || 1)) * 372, y = (n) => 54 - (n / top) * 42;
      make(chart, "path", { d: `M${points.map(([v, n]) => `${x(v)} ${y(n)}`).join("L")}`, fill: "none", stroke: "var(--own)", "stroke-width": 2 });
      make(chart, "path", { class: "zero-line", d: `M${x(Math.max(low, Math.min(high, this.sweep.now)))} 6V58` });
      make(chart, "path", { class: "axis", d: "M8 58H380" });
      for (const [v, n] of points.filter((_, i) => i % 2 === 0)) { make(chart, "text", { x: x(v), y: 71, "text-anchor": v === low ? "start" : "middle", class: "tick" }, v); if (n) make(chart, "text", { x: x(v) + 3, y: y(n) - 4, class: "tick" }, n); }
    },

    /** The mend sets one place of the document to a value. */
    mend(f) {
      const steps = f.mend.path.split(".");
      const last = steps.pop();
      let place = this.doc;
      for (const s of steps) place = place[s];
      place[last] = copy(f.mend.value);
      this.doc = copy(this.doc);
      this.changed();
    },

    // -- time plan -----------------------------------------------------------------------------------------------------------
    drawPlan(plan) {
      const svg = this.$root.querySelector("[data-plan]");
      const make = (name, attributes, words) => {
        const node = document.createElementNS("http://www.w3.org/2000/svg", name);
        for (const [k, v] of Object.entries(attributes)) node.setAttribute(k, v);
        if (words !== undefined) node.textContent = words;
        return node;
      };
      const above = plan.bars.filter((b) => b.above), below = plan.bars.filter((b) => !b.above);
      const first = Math.min(plan.first, -3) * 1.08, last = Math.max(plan.last, 5) * 1.1;
      const left = 8, width = 372;
      const x = (s) => left + ((Math.max(first, Math.min(last, s)) - first) / (last - first)) * width;
      const line = 24 + above.length * 34, height = line + 34 + below.length * 34;
      svg.setAttribute("viewBox", `0 0 388 ${Math.max(120, height)}`);
      const kept = new Map([...svg.querySelectorAll("rect[data-key]")].map((r) => [r.dataset.key, r]));
      for (const node of [...svg.children]) if (!node.dataset.key) node.remove();
      const seen = new Set();
      const bar = (b, i, y) => {
        const key = `${b.part}:${b.style}:${b.above}:${i}`;
        seen.add(key);
        const box = kept.get(key) || svg.appendChild(make("rect", { "data-key": key, height: 12 }));
        box.setAttribute("class", b.above ? (b.style === "quiet" ? "quiet-bar" : "wait") : "act");
        box.setAttribute("y", y + 14);
        box.setAttribute("x", x(b.start));
        box.setAttribute("width", Math.max(4, x(b.open ? last : b.end) - x(b.start)));
        const words = b.open ? `${b.label} …` : b.label;
        // A word never crosses the zero line: what ends at zero is named left of it, or right of it where room is short.
        const before = b.end <= 0 && !b.open;
        const anchor = before ? (x(0) > 130 ? "end" : "start") : x(b.start) > 230 ? "end" : "start";
        const place = before ? x(0) + (anchor === "end" ? -6 : 6) : anchor === "end" ? Math.min(380, x(b.end)) : x(b.start) + 4;
        svg.append(make("text", { x: place, y: y + 9, "text-anchor": anchor }, words));
      };
      above.forEach((b, i) => bar(b, i, i * 34 + 8));
      below.forEach((b, i) => bar(b, i, line + 24 + i * 34));
      for (const [key, node] of kept) if (!seen.has(key)) node.remove();
      svg.append(make("path", { class: "axis", d: `M${left} ${line}H${left + width}`, fill: "none" }));
      const step = [1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1800, 3600].find((s) => ((last - first) / s) <= 8) || 7200;
      for (let s = Math.ceil(first / step) * step; s <= last; s += step) {
        svg.append(make("path", { class: "axis", d: `M${x(s)} ${line - 3}v6` }));
        svg.append(make("text", { class: "tick", x: s === 0 ? x(s) + 7 : x(s), y: line + 14, "text-anchor": "middle" }, s === 0 ? "0" : `${s > 0 ? "+" : "−"}${Math.abs(s)}${Math.abs(s) === step ? " s" : ""}`));
      }
      if (plan.decided > 0) svg.append(make("path", { class: "decided", d: `M${x(plan.decided)} 0V${height}` }));
      svg.append(make("path", { class: "zero-line", d: `M${x(0)} 4V${height}` }));
    },

    // -- sentence links, views -------------------------------------------------------------------------------------------------
    follow(e) {
      const link = e.target.closest("[data-sentence] a");
      if (!link) return;
      e.preventDefault();
      this.showParts();
      const path = link.dataset.part.split(".");
      const part = document.getElementById(`part-${path[0] === "response" && path[1] !== undefined ? `response-${path[1]}` : path[0]}`);
      if (!part) return;
      part.scrollIntoView({ block: "start", behavior: matchMedia("(prefers-reduced-motion: reduce)").matches ? "auto" : "smooth" });
      part.classList.add("lit");
      setTimeout(() => part.classList.remove("lit"), 1200);
      part.querySelector("input, select, textarea, button")?.focus({ preventScroll: true });
    },
    showParts() { this.view = "parts"; this.readConditions(); },
    showDocument() { this.text = JSON.stringify(this.doc, null, 2); this.textProblem = ""; this.view = "document"; },
    textChanged() {
      try {
        const read = JSON.parse(this.text);
        if (!read || typeof read !== "object" || Array.isArray(read)) throw new Error("a document is an object");
        this.doc = { response: [], ...read };
        this.textProblem = "";
        this.changed(false);
      } catch (error) { this.textProblem = `This is not JSON yet: ${error.message}`; }
    },

    // -- verbs -------------------------------------------------------------------------------------------------------------------
    async save() {
      // A second click while the first is under way would make a second rule.
      if (!this.canSave) return;
      this.saving = true;
      const url = this.rule ? `/s/${site}/rulebook/${this.rule}/save` : `/s/${site}/rulebook/save`;
      try {
        const saved = await dromikon.send("POST", url, { document: copy(this.doc), revision: this.revision });
        this.dirty = false;
        if (!this.rule) { dromikon.toastLater("Saved. Switch it on when the checks are clean."); location.href = `/s/${site}/rulebook/${saved.id}`; return; }
        this.revision = saved.revision;
        dromikon.toast(`Saved as revision ${saved.revision}.`);
      } catch (error) {
        this.problems = error.problems || [];
        dromikon.toast(this.problems.length ? "Not saved: see what is marked." : error.message, { bad: true, seconds: 10 });
      }
      this.saving = false;
    },
    async toggle(e) {
      const on = e.target.checked;
      try {
        const state = await dromikon.send("POST", `/s/${site}/rulebook/${this.rule}/switch`, { on });
        this.enabled = state.enabled;
        dromikon.toast(on ? "On. It decides from the next event." : "Off. Pending steps are dropped, held outputs released.");
      } catch (error) {
        e.target.checked = !on;
        dromikon.toast((error.problems || []).map((p) => p.message).join(" ") || error.message, { bad: true, seconds: 10 });
      }
    },
    async remove() {
      await dromikon.send("POST", `/s/${site}/rulebook/${this.rule}/switch`, { deleted: true });
      this.dirty = false;
      this.enabled = this.may = false;
      dromikon.toast("Deleted and switched off. Its history stays.", { seconds: 12, undo: async () => { await dromikon.send("POST", `/s/${site}/rulebook/${this.rule}/switch`, { deleted: false }); this.may = true; dromikon.toast("Back in the Rulebook, switched off."); } });
    },
    keys(e) {
      if (!(e.ctrlKey || e.metaKey)) return;
      const key = e.key.toLowerCase();
      if (key === "s") { e.preventDefault(); this.save(); }
      if (key === "z" && !["TEXTAREA", "INPUT"].includes(e.target.tagName)) { e.preventDefault(); if (e.shiftKey) this.redo(); else this.undo(); }
    },
  }));
});
