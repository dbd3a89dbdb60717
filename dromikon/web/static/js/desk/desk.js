// Desk: alarms appear, are answered and go, without reloading the page.
import { call, elements, fragment } from "../kit/ask.js";
import { component, joined } from "../kit/component.js";
import { on } from "../kit/feed.js";
import { Live } from "../kit/frames.js";
import { gathered } from "../kit/gather.js";
import { dispatch } from "../kit/keys.js";
import { carried } from "../kit/page.js";
import { refreshTimes } from "../kit/times.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { answer } from "./answering.js";
import { handle, renewShelf, shelve, showWhose } from "./handling.js";
import { together } from "./together.js";
import { put, renew, step } from "./cards.js";
import { liveCanvases, showNotices, showTiles } from "./showing.js";
import { hear, maySound, play } from "./sound.js";
import { Stills } from "./stills.js";

/** How long what comes is gathered before the Desk asks again, in ms. */
const GATHER = 120;
/** How long an answered card stays, in ms: for whoever answered it, and for the others. */
const STAYS = { mine: 1200, theirs: 4000 };
const list = () => document.querySelector("[data-alarms]");
const card = (id) => list().querySelector(`[data-alarm="${CSS.escape(id)}"]`);

const desk = () => ({
  muted: localStorage.getItem("muted") === "1",
  blocked: !maySound(),
  get soundPressed() { return String(!this.muted); },
  get soundWords() { return this.muted ? t("Sound off") : this.blocked ? t("Click for sound") : t("Sound on"); },

  init() {
    this.live = new Live();
    this.soon = gathered(() => this.refresh(), GATHER);
    this.stills = new Stills();
    this.showings = carried("showings");
    this.notices = carried("notices");
    this.$root.addEventListener("submit", answer);
    this.$root.addEventListener("submit", shelve);
    this.$root.addEventListener("click", (e) => this.press(e));
    this.$root.addEventListener("click", handle);
    this.$root.addEventListener("change", (e) => { if (e.target.dataset.choose) this.count(); });
    this.shelf = gathered(() => renewShelf(this.$root.querySelector("[data-shelf]")), GATHER);
    showWhose(list(), this.$root.dataset.person);
    document.addEventListener("keydown", (e) => dispatch(e, this.acts));
    const touched = () => { this.blocked = false; };
    for (const touch of ["pointerdown", "keydown"]) document.addEventListener(touch, touched, { once: true });
    on("alarm", (m) => this.changed(m.data));
    on("showing", () => this.soon());
    on("notice", () => this.soon());
    on("step", (m) => this.stepDone(m.data));
    on("reload", () => location.reload());
    this.stills.watch(list());
    this.tick();
    setInterval(() => this.tick(), 500);
  },

  /** An alarm was raised, answered, or its condition ended: its card comes with the message. */
  async changed(data) {
    if (!card(data.alarm) && data.sound !== "none" && !this.muted) play(data.sound);
    const content = data.card ? elements(data.card) : await fragment("card", { alarm: data.alarm });
    const fresh = content?.firstElementChild;
    if (!fresh) return;
    const now = card(data.alarm);
    const mine = now?.dataset.mine === "1";
    if (now && !mine && data.by) toast(t("{person} answered “{alarm}”.", { person: data.by, alarm: fresh.ariaLabel }));
    this.shelf();
    if (fresh.dataset.state === "closed") this.close(now, fresh, mine ? STAYS.mine : STAYS.theirs);
    else if (fresh.dataset.state === "shelved") now?.remove();
    else if (now) renew(now, fresh);
    else put(list(), fresh);
    this.settle();
    this.soon();
  },
  close(now, fresh, ms) {
    now?.replaceWith(fresh);
    setTimeout(() => { fresh.remove(); this.settle(); }, ms);
  },
  settle() {
    document.querySelector("[data-quiet]").hidden = list().children.length > 0;
    if (!list().querySelector(".current")) list().firstElementChild?.classList.add("current");
    refreshTimes(list());
    showWhose(list(), this.$root.dataset.person);
    this.count();
    this.stills.watch(list());
    this.tick();
  },

  async refresh() {
    const [state, load] = await Promise.all([call("desk").catch(() => null), fragment("load")]);
    if (load) document.querySelector("[data-load]").replaceChildren(load);
    if (!state) return;
    const known = new Set(this.notices.map((n) => n.id));
    if (!this.muted) state.notices.filter((n) => !known.has(n.id)).forEach(hear);
    Object.assign(this, { showings: state.showings, notices: state.notices });
    this.tick();
  },
  tick() {
    const now = Date.now();
    const lasting = (shown) => shown.until > now;
    Object.assign(this, { showings: this.showings.filter(lasting), notices: this.notices.filter(lasting) });
    showTiles(this.showings, now);
    showNotices(document.querySelector("[data-notices]"), this.notices, now);
    this.live.show(liveCanvases());
  },

  async press(event) {
    const button = event.target.closest("[data-press]");
    if (!button) return;
    button.disabled = true;
    try {
      const done = await call("press", { places: { button: button.dataset.press } });
      toast(t("Pressed “{button}”.", { button: done.pressed }));
    } catch (error) { toast(error.message, { bad: true }); }
    setTimeout(() => { button.disabled = false; }, 800);
  },
  stepDone({ status }) {
    if (status !== "unconfirmed") return;
    toast(t("A device did not confirm a command. The trace in the Daybook says which."), { bad: true });
  },
  toggleSound() {
    this.muted = !this.muted;
    localStorage.setItem("muted", this.muted ? "1" : "0");
    if (!this.muted) play("chime");
  },

  get acts() {
    return {
      next: () => step(list(), 1),
      previous: () => step(list(), -1),
      sound: () => this.toggleSound(),
      note: () => list().querySelector(".current textarea")?.focus(),
      acknowledge: () => {
        const form = ".alarm:focus-within form[data-answer], .alarm.current form[data-answer]";
        document.querySelector(form)?.requestSubmit();
      },
    };
  },
});

component("desk", () => joined(desk(), together));
