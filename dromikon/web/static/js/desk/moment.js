// A moment: its alarm is answered here, and shows at once that somebody else has.
import { elements, fragment } from "../kit/ask.js";
import { component } from "../kit/component.js";
import { on } from "../kit/feed.js";
import { Live } from "../kit/frames.js";
import { refreshTimes } from "../kit/times.js";
import { answer } from "./answering.js";
import { renew } from "./cards.js";
import { commandClicked, wordsSaid } from "./at-hand.js";
import { handle, shelve, showWhose, tick } from "./handling.js";
import { keepOutlines } from "./outlines.js";
import { hearListening } from "./listening.js";
import { liveCanvases } from "./showing.js";
import { atZero } from "./strips.js";
import { Stills } from "../kit/stills.js";
import { hearVoice } from "./voice.js";

component("moment", () => ({
  init() {
    this.$root.addEventListener("submit", answer);
    this.$root.addEventListener("submit", shelve);
    this.$root.addEventListener("submit", wordsSaid);
    this.$root.addEventListener("click", handle);
    this.$root.addEventListener("click", commandClicked);
    this.$root.addEventListener("change", tick);
    keepOutlines(this.$root);
    hearVoice(this.$root);
    hearListening(this.$root);
    showWhose(this.$root, this.$root.dataset.person);
    on("alarm", (m) => this.changed(m.data));
    on("reload", () => location.reload());
    new Stills().watch(this.$root);
    atZero(this.$root);
    this.live = new Live(8, 960);
    this.tick();
    setInterval(() => this.tick(), 1000);
  },
  tick() {
    refreshTimes(this.$root);
    this.live.show(liveCanvases());
  },
  async changed(data) {
    const now = this.$root.querySelector(`[data-alarm="${CSS.escape(data.alarm)}"]`);
    if (!now) return;
    const content = data.card ? elements(data.card) : await fragment("card", { alarm: data.alarm });
    const fresh = content?.firstElementChild;
    if (!fresh) return;
    if (now.dataset.open === fresh.dataset.open) renew(now, fresh);
    else now.replaceWith(fresh);
    showWhose(this.$root, this.$root.dataset.person);
  },
}));
