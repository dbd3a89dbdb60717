// Desk: alarms appear, are answered and go, without reloading the page.
import { call, elements, fragment } from "../kit/ask.js";
import { now } from "../kit/clock.js";
import { component, joined } from "../kit/component.js";
import { onBack } from "../kit/connection.js";
import { on } from "../kit/feed.js";
import { Live } from "../kit/frames.js";
import { gathered } from "../kit/gather.js";
import { dispatch } from "../kit/keys.js";
import { carried } from "../kit/page.js";
import { toast } from "../kit/toasts.js";
import { t, tn } from "../kit/words.js";
import { answer } from "./answering.js";
import { commandClicked, wordsSaid } from "./at-hand.js";
import { pressing } from "./buttons.js";
import { calling } from "./calls.js";
import { put, renew } from "./cards.js";
import { byKey } from "./by-key.js";
import { handle, renewShelf, shelve, tick } from "./handling.js";
import { pauseClicked } from "./pauses.js";
import { resting } from "./resting.js";
import { hear, play, soundOf } from "./sound.js";
import { liveCanvases, showNotices } from "./showing.js";
import { Stills } from "../kit/stills.js";
import { together } from "./together.js";
import { hearInside } from "./inside.js";
import { hearListening } from "./listening.js";
import { hearVoice } from "./voice.js";
import { volume } from "./volume.js";
import { watching } from "./watching.js";

/** How long what comes is gathered before the Desk asks again, in ms. */
const GATHER = 120, GATHER_CARDS = 700;
/** How long an answered card stays, in ms: for whoever answered it, and for the others. */
const STAYS = { mine: 1200, theirs: 4000 };
const list = () => document.querySelector("[data-alarms]");
const card = (id) => list().querySelector(`[data-alarm="${CSS.escape(id)}"]`);

const desk = () => ({
  notices: [],

  init() {
    this.live = new Live();
    this.soon = gathered(() => this.refresh(), GATHER);
    this.cardsSoon = gathered(() => this.refreshCards(), GATHER_CARDS);
    this.stills = new Stills();
    // `most`: so many cards stand there; what comes beyond is a line below them.
    const { notices, buttons, calls, most } = carried("desk");
    Object.assign(this, { notices, buttons, calls, most });
    this.begin();
    this.hearChoices();
    this.listen();
    this.shelf = gathered(() => renewShelf(this.$root.querySelector("[data-shelf]")), GATHER_CARDS);
    document.addEventListener("keydown", (e) => dispatch(e, byKey(this)));
    this.stills.watch(list());
    this.missedSince();
    this.settle();
    setInterval(() => this.tick(), 500);
  },
  listen() {
    const root = this.$root;
    for (const does of [answer, shelve, wordsSaid]) root.addEventListener("submit", does);
    for (const does of [handle, commandClicked]) root.addEventListener("click", does);
    document.addEventListener("click", (e) => pauseClicked(e, () => this.soon()));
    root.addEventListener("change", (e) => { if (e.target.dataset.choose) this.count(); });
    root.addEventListener("change", tick);
    hearVoice(root);
    hearListening(document);
    hearInside(this.$root);
    on("alarm", (m) => this.changed(m.data));
    for (const topic of ["showing", "notice", "call", "button", "paused", "facts"]) on(topic, () => this.soon());
    on("step", (m) => this.stepDone(m.data));
    on("reload", () => location.reload());
    onBack((since) => { this.soon(); this.cardsSoon(); this.markMissed(since); });
  },

  /** An alarm was raised, answered, or its condition ended: its card comes with the message. */
  async changed(data) {
    const content = data.card ? elements(data.card) : await fragment("card", { alarm: data.alarm });
    const fresh = content?.firstElementChild;
    if (!fresh) return;
    const before = card(data.alarm), mine = before?.dataset.mine === "1";
    if (!before || data.title) this.heardOf(data, fresh.dataset);
    const said = { person: data.by, alarm: fresh.ariaLabel };
    if (before && !mine && data.by) toast(t("{person} answered “{alarm}”.", said));
    this.shelf();
    const { state } = fresh.dataset;
    if (state === "closed") this.close(before, fresh, mine ? STAYS.mine : STAYS.theirs);
    else if (state === "shelved" || state === "suppressed") before?.remove();
    else if (before) renew(before, fresh);
    else this.add(fresh);
    this.settle();
    this.soon();
  },
  /** In a flood, cards come together a moment later, but for what is more urgent than all that is there. */
  add(fresh) {
    const first = list().firstElementChild;
    if (this.flooded() && first && Number(fresh.dataset.rank) >= Number(first.dataset.rank)) this.cardsSoon();
    else put(list(), fresh, this.most);
    if (list().children.length >= this.most) this.cardsSoon();
  },
  /** Many at once. */
  flooded() {
    const at = now();
    this.lately = [...(this.lately || []), at].filter((moment) => moment > at - 1000);
    return this.lately.length > 8;
  },
  heardOf({ sound, title }, told) {
    if (!title || this.muted) return;
    play(told ? soundOf(told, this.own.sounds || {}) : sound);
  },
  close(before, fresh, ms) {
    before?.replaceWith(fresh);
    setTimeout(() => { fresh.remove(); this.settle(); this.cardsSoon(); }, ms);
  },

  async refresh() {
    const [state, load] = await Promise.all([call("desk").catch(() => null), fragment("load").catch(() => null)]);
    if (load) document.querySelector("[data-load]").replaceChildren(load);
    if (!state) return;
    const known = new Set(this.notices.map((n) => n.id));
    if (!this.muted) state.notices.filter((n) => !known.has(n.id)).forEach(hear);
    const { notices, buttons, calls, paused } = state;
    Object.assign(this, { notices, buttons, calls, paused });
    this.screenIs(state.screen);
    this.tick();
  },
  tick() {
    const at = (this.moment = now());
    this.notices = this.notices.filter((shown) => shown.until > at);
    showNotices(document.querySelector("[data-notices]"), this.notices, at);
    if (this.screen.cells.some((c) => c.until)) this.drawCells();
    this.ring();
    this.hearOut();
    this.live.show(liveCanvases());
  },
  stepDone({ status }) {
    if (status !== "unconfirmed") return;
    toast(t("A device did not confirm a command. The trace in the Daybook says which."), { bad: true });
  },
  markMissed(since) {
    const missed = [...list().children].filter((c) => Number(c.dataset.raised) > since);
    for (const one of missed) one.classList.add("missed");
    if (!missed.length) { toast(t("Connected again. Nothing was missed.")); return; }
    toast(tn("Connected again. {count} alarm came meanwhile.", "Connected again. {count} alarms came meanwhile.",
      missed.length), { seconds: 15 });
  },
});

component("desk", () => joined(desk(), resting, volume, together, watching, pressing, calling));
