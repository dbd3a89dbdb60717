// Which cameras are seen: one, several in step, those that look at one point, or that of a bookmark.
import { withParameter } from "../kit/page.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

export const MOST = 9;
/** A bookmark that is opened plays from so long before its event at least, in ms. */
const BEFORE = 10e3;

export const choosing = {
  several: false,

  /** These cameras from now on; the first is the one that bookmarks and clips are made of. */
  choose(cameras) {
    this.cameras = cameras.slice(0, MOST);
    this.screens.show(this.cameras);
    for (const button of this.$root.querySelectorAll("[data-choose]")) {
      button.ariaPressed = String(this.cameras.includes(button.dataset.choose));
    }
  },
  /** Pressed by itself it is the only one; with Ctrl or Shift, or while several are chosen, one more or one less. */
  chooseCamera(e) {
    const { choose: camera } = e.target.dataset, more = this.several || e.ctrlKey || e.metaKey || e.shiftKey;
    const rest = this.cameras.filter((c) => c !== camera);
    if (!more) this.choose([camera]);
    else if (rest.length < this.cameras.length) this.choose(rest.length ? rest : this.cameras);
    else if (rest.length === MOST) toast(t("{most} cameras at a time.", { most: MOST }));
    else this.choose([...rest, camera]);
    this.chosen();
  },
  chooseSet(e) {
    const cameras = e.target.value.split(",").filter(Boolean);
    if (!cameras.length) return;
    this.several = true;
    this.choose(cameras);
    this.chosen();
  },
  toggleSeveral() {
    this.several = !this.several;
    if (!this.several && this.cameras.length > 1) { this.choose([this.cameras[0]]); this.chosen(); }
  },
  chosen() {
    this.stretch = null;
    history.replaceState(null, "", withParameter("camera", this.cameras.join(",")));
    this.load();
    this.seek(this.at);
  },
  openBookmark(e) {
    const chosen = e.target.closest("[data-bookmark]"), d = chosen.dataset;
    for (const other of this.$root.querySelectorAll("[data-bookmark]")) other.ariaCurrent = String(other === chosen);
    if (!this.cameras.includes(d.bookmarkCamera)) this.choose([d.bookmarkCamera]);
    this.stretch = { start: Number(d.bookmarkStart), zero: Number(d.bookmarkZero), end: Number(d.bookmarkEnd) };
    history.replaceState(null, "", withParameter("bookmark", d.bookmark));
    const middle = (this.stretch.start + this.stretch.end) / 2;
    this.halt();
    this.at = Math.min(this.stretch.start, this.stretch.zero - BEFORE);
    Object.assign(this, { from: middle - 90e3, to: middle + 90e3 });
    this.load();
    this.play();
  },
};
