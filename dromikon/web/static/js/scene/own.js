// Detectors of our own at a camera: drawn on its picture over where objects went, and tried over the past at once.
import { addressOf } from "../kit/ask.js";
import { component, joined } from "../kit/component.js";
import { carried } from "../kit/page.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { ThingForm } from "../setup/thing-form.js";
import { corners } from "../sources/corners.js";
import { drawScene } from "../sources/scene.js";
import { showPaths } from "./beneath.js";
import { NEW, keeping } from "./keeping.js";
import { Past } from "./past.js";
import { fromShares, toShares } from "./shares.js";
import { MASK, masks } from "./masks.js";
import { sizes } from "./sizes.js";

/** How often the picture is taken again, and how soon what changed is tried, in ms. */
const AGAIN = 2000, SOON = 600;

const own = () => ({
  raw: { __v_skip: true, known: [], kinds: {}, opened: "", before: [], dragged: null, moment: 0, form: null, timer: 0 },
  opened: "", name: "", detects: "", dirty: false,

  init() {
    const { own, kinds, opened } = carried("own"), { camera } = this.$root.dataset;
    this.raw.kinds = kinds;
    this.raw.known = own.map(({ id, name, watch }) => ({ id, name, watch, points: fromShares(watch.corners) }));
    this.raw.past = new Past(this.$root.querySelector("[data-past-of]"), camera, {
      look: (at) => this.lookAt(at), take: (setting, value) => this.takeOver(setting, value),
    });
    this.beginMasks();
    this.listen();
    this.open(opened || this.raw.known[0]?.id || "");
    showPaths(this.$root.querySelector("[data-beneath]"), camera).catch(() => {});
    setInterval(() => this.live(), AGAIN);
    window.addEventListener("beforeunload", (e) => { if (this.dirty) e.preventDefault(); });
  },
  listen() {
    const scene = this.$root.querySelector("[data-scene]");
    scene.addEventListener("click", (e) => this.openClicked(e));
    this.hearCorners(scene);
    this.hearSizes(scene);
  },
  get mayEdit() { return "edit" in this.$root.dataset; },
  get openedClosed() { return !this.opened; },
  get isNew() { return this.opened === NEW; },
  get saveWords() { return this.isNew ? t("Add it") : t("Save"); },
  drawn() { return [...this.raw.known, ...this.raw.masks]; },
  current() { return this.drawn().find((d) => d.id === this.raw.opened); },
  kind() { return this.raw.kinds[this.current().watch.detects]; },

  draw(focused) {
    const scene = this.$root.querySelector("[data-scene]");
    const shapes = this.drawn().map(({ id, name, watch, points }) => ({
      token: id, name, looks: watch.detects,
      shapes: [{ sort: this.raw.kinds[watch.detects].shape, points, words: t("in") }],
    }));
    drawScene(scene, shapes, this.raw.opened, this.mayEdit);
    if (this.opened && this.mayEdit) this.drawSizes(scene);
    if (focused) scene.querySelector(`[data-corner="${focused}"]`)?.focus();
  },
  /** The picture as it is now, or as it was at the moment that is looked at. */
  live() {
    const img = this.$root.querySelector("[data-live]");
    if (!document.hidden && !this.raw.moment) img.src = `${img.dataset.live}&t=${Date.now()}`;
  },
  lookAt(at) {
    this.raw.moment = at;
    const img = this.$root.querySelector("[data-live]");
    img.src = at ? `${img.dataset.live}&at=${at}` : img.dataset.live;
    this.$root.querySelector("[data-now]").hidden = !at;
    img.scrollIntoView({ block: "nearest" });
  },
  lookNow() { this.lookAt(0); },

  openClicked({ target }) {
    const on = target.closest("[data-open], [data-row]");
    if (on) this.open(on.dataset.open || on.dataset.row);
  },
  renamed() { this.dirty = true; },
  open(id) {
    Object.assign(this.raw, { opened: id, before: [] });
    const own = this.current(), isMask = own?.watch.detects === MASK;
    this.opened = isMask ? "" : id;
    if (own && !isMask) {
      Object.assign(this, { name: own.name, detects: own.watch.detects, dirty: id === NEW });
      this.raw.past.marks.clear();
      this.showForm();
      if (id !== NEW) history.replaceState(null, "", addressOf("scene", this.places(), { detector: id }));
    }
    this.draw();
    for (const row of this.$root.querySelectorAll("[data-row]")) row.classList.toggle("chosen", row.dataset.row === id);
  },
  places() { return { camera: this.$root.dataset.camera }; },
  showForm() {
    const { watch } = this.current(), { forms, varied } = this.kind();
    const place = this.$root.querySelector("[data-settings]");
    this.raw.form = new ThingForm(place, {
      forms, catalogue: { kinds: [] }, doc: watch, takenOut: () => {}, changed: () => { this.draw(); this.changed(); },
    });
    this.raw.form.begin(watch, false);
    const choice = this.$root.querySelector("[data-vary]");
    const known = (name) => forms.parts[forms.root].fields.find((f) => f.name === name);
    const words = (name) => `${known(name).label} ${known(name).unit || ""}`.trim();
    choice?.replaceChildren(...varied.map((v) => new Option(words(v), v)));
  },
  changed() {
    this.dirty = true;
    clearTimeout(this.raw.timer);
    if (!this.raw.past.root.hidden) this.raw.timer = setTimeout(() => this.search(), SOON);
  },

  // -- drawing ----------------------------------------------------------------------------------------------------
  shapes() { return [{ sort: this.kind().shape, points: this.current().points }]; },
  change([{ points }], focused, keep = true) {
    const own = this.current();
    if (keep) this.raw.before.push({ points: own.points });
    own.points = points;
    own.watch.corners = toShares(points);
    this.draw(focused);
    if (own.watch.detects === MASK) this.masked();
    else this.changed();
  },
  undo() {
    const last = this.raw.before.pop();
    if (!last) toast(t("Nothing to undo."));
    else if (last.setting) this.resize(last.setting, last.value, false);
    else this.change([{ points: last.points }], null, false);
  },

  // -- the past ---------------------------------------------------------------------------------------------------
  search() {
    const vary = this.$root.querySelector("[data-vary]").value;
    return this.told(() => this.raw.past.search(this.content(), vary));
  },
  setDays({ target }) { this.raw.past.days = Number(target.value); return this.search(); },
  /** A setting that parts the marks is taken over; without one, only the marks are others. */
  takeOver(setting, value) {
    if (setting) {
      this.current().watch[setting] = value;
      this.raw.form.show(this.current().watch);
      this.dirty = true;
    }
    return this.search();
  },
  async told(doing) {
    try {
      this.raw.form?.mark([]);
      return await doing() ?? true;
    } catch (error) {
      const problems = (error.problems || []).map((p) => ({ ...p, path: p.path.replace(/^watch\.(\w+\.)?/, "") }));
      if (!this.raw.form?.mark(problems)) toast(problems[0]?.message || error.message, { bad: true });
      return null;
    }
  },
});

component("own", () => joined(own(), keeping, masks, sizes, corners));
