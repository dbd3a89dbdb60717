// Part of a list's page: what was seen lately that it could hold, and what a value would find in it.
import { addressOf, call } from "../kit/ask.js";
import { relative } from "../kit/times.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

const SOON = 200;

export const seen = () => ({
  sightings: [], tryText: "", tried: [], triedWords: "",

  /** Asked for after the entries: it is besides. */
  async look() {
    if (this.sort === "values") return;
    try {
      const found = await call("sightings", { places: { list: this.id } });
      this.sightings = found.map((s) => ({ ...s, name: s.person, at: Date.parse(s.zero) }));
    } catch (error) { this.tell(error); }
  },
  stillOf(s) { return s.camera ? addressOf("picture", { camera: s.camera }, { at: s.at, width: 240 }) : ""; },
  agoOf(s) { return relative(s.at); },
  titleOf(s) { return s.value || s.person || t("a face"); },
  isFace(s) { return !s.value; },
  canAdd(s) { return !s.entry && Boolean(s.value || s.name.trim()); },
  isNew(s) { return !s.entry; },
  knownWords(s) { return t("on it: {entry}", { entry: s.entry }); },
  nearWords(s) { return t("nearly: {entry}", { entry: s.near }); },
  dropStill(s) { s.camera = ""; },
  name(s, event) { s.name = event.target.value; },

  async addSeen(s) {
    const name = s.value || s.name, wanted = this.isFace(s) && this.$root.dataset.consent === "1";
    const agreed = wanted && confirm(t("Did {name} agree to be known by their face?", { name }));
    try {
      const content = { event: s.event, value: name, agreed };
      const entry = await call("addSighting", { places: { list: this.id }, content });
      s.entry = entry.value;
      toast(t("“{value}” is on the list; its picture is being kept.", { value: entry.value }));
      await this.reload();
    } catch (error) { toast(error.message, { bad: true }); }
  },

  tryTyped(event) {
    this.tryText = event.target.value;
    clearTimeout(this.tryLater);
    this.tryLater = setTimeout(() => this.tryIt(this.tryText.trim() ? { value: this.tryText } : null), SOON);
  },
  trySeen(s) { this.tryIt(s.value ? { value: s.value } : { event: s.event }, this.titleOf(s)); },
  async tryIt(query, words = "") {
    this.triedWords = words;
    if (!query) { this.tried = []; return; }
    try {
      this.tried = await call("tryValue", { places: { list: this.id }, query });
    } catch (error) { this.tell(error); }
  },
  triedLook(x) { return x.entry ? "state good" : "state off"; },
  triedEntry(x) { return x.entry || t("nothing"); },
});
