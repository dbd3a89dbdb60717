// A moment: its alarm is answered here, and shows at once that somebody else has.
import { elements, fragment } from "../kit/ask.js";
import { component } from "../kit/component.js";
import { on } from "../kit/feed.js";
import { Live } from "../kit/frames.js";
import { refreshTimes } from "../kit/times.js";
import { answer } from "./answering.js";
import { renew } from "./cards.js";
import { handle, shelve, showWhose } from "./handling.js";
import { liveCanvases } from "./showing.js";
import { Stills } from "./stills.js";

component("moment", () => ({
  init() {
    this.$root.addEventListener("submit", answer);
    this.$root.addEventListener("submit", shelve);
    this.$root.addEventListener("click", handle);
    showWhose(this.$root, this.$root.dataset.person);
    on("alarm", (m) => this.changed(m.data));
    on("reload", () => location.reload());
    new Stills().watch(this.$root);
    const middle = { inline: "center", block: "nearest" };
    for (const zero of this.$root.querySelectorAll(".strip .zero")) zero.scrollIntoView(middle);
    this.live = new Live();
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
