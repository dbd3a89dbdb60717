// Detectors of our own added, saved, copied and taken away.
import { addressOf, call } from "../kit/ask.js";
import { toast, toastLater } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { FIRST, beside, freeName, fromShares, nextName } from "./shares.js";

/** The one that is not saved yet. */
export const NEW = "new";

export const keeping = {
  add({ target }) {
    const detects = target.value;
    target.value = "";
    if (detects) this.begin(detects, FIRST[this.raw.kinds[detects].shape], this.raw.kinds[detects].label);
  },
  begin(detects, corners, name, settings = {}) {
    const known = this.raw.known.filter((d) => d.id !== NEW);
    const words = freeName(name.charAt(0).toUpperCase() + name.slice(1), known.map((d) => d.name));
    const watch = { ...settings, detects, corners };
    this.raw.known = [...known, { id: NEW, name: words, watch, points: fromShares(corners) }];
    this.open(NEW);
    this.raw.form.begin(watch, true);
    Object.assign(watch, settings, { detects, corners });
    this.raw.form.show(watch);
    this.draw();
    this.changed();
  },
  repeat() {
    const { name, watch } = this.current(), { detects, corners, ...settings } = watch;
    this.begin(detects, beside(corners), nextName(name), settings);
  },
  content() { return { name: this.name, watch: this.current().watch }; },
  send() {
    const content = { document: this.content() };
    if (this.isNew) return call("addOwn", { places: this.places(), content });
    return call("changeOwn", { places: { ...this.places(), detector: this.opened }, content });
  },
  async save() {
    const saved = await this.told(() => this.send());
    if (!saved) return;
    this.dirty = false;
    toastLater(t("“{name}” watches from now on.", { name: saved.name }));
    location.href = addressOf("scene", this.places(), { detector: saved.id });
  },
  async copyTo({ target }) {
    const camera = target.value, words = target.selectedOptions[0].text;
    target.value = "";
    if (!camera) return;
    const content = { document: this.content() };
    if (await this.told(() => call("addOwn", { places: { camera }, content }))) {
      toast(t("It is at {camera}, too. Draw it there to fit.", { camera: words }));
    }
  },
  async retire() {
    if (this.isNew) { this.dirty = false; location.reload(); return; }
    if (!confirm(t("Take “{name}” away? Rules that name it will say so.", { name: this.name }))) return;
    this.dirty = false;
    await this.told(() => call("retireOwn", { places: { ...this.places(), detector: this.opened } }));
    location.href = addressOf("scene", this.places());
  },
};
