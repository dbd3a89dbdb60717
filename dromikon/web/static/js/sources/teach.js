// Teaching a decoder: values of a message are clicked into a document, and all messages show what they become.
import { copy } from "../form/paths.js";
import { addressOf, call } from "../kit/ask.js";
import { component } from "../kit/component.js";
import { dispatch } from "../kit/keys.js";
import { carried } from "../kit/page.js";
import { toast, toastLater } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { ThingForm } from "../setup/thing-form.js";
import { drawBecomes, drawLeaves, drawMessages } from "./bench.js";
import { use } from "./uses.js";

/** How long the page waits for the next change before it asks, in ms. */
const PAUSE = 250;

component("teach", () => ({
  raw: { __v_skip: true, doc: {}, tried: [], opened: null, picked: null, asking: 0, dirty: false },

  init() {
    const told = carried("teach");
    Object.assign(this.raw, told, { doc: told.document, opened: told.opened ?? told.messages[0]?.id ?? null });
    const options = { forms: told.forms, catalogue: told.catalogue, doc: this.raw.doc };
    const changed = () => { this.raw.dirty = true; this.soon(); };
    this.raw.form = new ThingForm(this.part("form"), { ...options, changed, takenOut: () => {} });
    this.raw.form.begin(this.raw.doc, told.decoder === null);
    if (told.decoder === null) Object.assign(this.raw.doc, this.whose(), { name: "" });
    this.raw.form.redraw();
    this.part("pasted").addEventListener("input", () => this.soon());
    this.part("ready").addEventListener("change", (e) => this.begin(this.raw.ready[e.target.value]));
    this.part("file").addEventListener("change", (e) => this.take(e.target.files[0]));
    document.addEventListener("keydown", (e) => dispatch(e, { save: () => this.save() }));
    window.addEventListener("beforeunload", (e) => { if (this.raw.dirty) e.preventDefault(); });
    this.draw();
    this.ask();
  },
  part(name) { return this.$root.querySelector(`[data-${name}]`); },

  draw() {
    const { messages, tried, opened, picked, doc } = this.raw;
    const message = messages.find((m) => m.id === opened);
    const open = (id) => { Object.assign(this.raw, { opened: id, picked: null }); this.draw(); };
    const pick = (path) => { this.raw.picked = path === picked ? null : path; this.draw(); };
    drawMessages(this.part("messages"), messages, tried, opened, open);
    const acts = { pick, use: (as, leaf) => this.use(as, leaf), catalogue: this.raw.catalogue };
    drawLeaves(this.part("leaves"), message, picked, doc, acts);
    drawBecomes(this.part("becomes"), this.part("sum"), tried, opened, {
      catalogue: this.raw.catalogue, place: (said, point) => this.place(said, point),
    });
  },
  /** Whose messages it reads, as the document has it. */
  whose() {
    const { sort, id, name } = this.raw.source;
    return { intake: null, device: null, [sort]: { id, name } };
  },
  /** A value becomes a part of the decoder. */
  use(as, leaf) {
    use(as, leaf, this.raw.doc);
    this.changed();
  },

  /** Another document takes the place of this one; whose messages it reads stays. Points not here are to be named. */
  begin(found) {
    if (!found) return;
    const { doc, catalogue } = this.raw, here = (ref) => catalogue.points.some((p) => p.id === ref?.id);
    for (const name of Object.keys(doc)) delete doc[name];
    Object.assign(doc, { name: "" }, copy(found.document), this.whose());
    doc.points = (doc.points || []).filter((p) => here(p.point));
    if (!here(doc.point)) doc.point = null;
    if (found.example) {
      this.part("pasted").value = found.example;
      this.part("pasted").closest("details").open = true;
    }
    this.changed();
  },
  async take(file) {
    if (!file) return;
    try {
      const document = JSON.parse(await file.text());
      if (typeof document?.kind !== "string") throw new Error("no decoder");
      this.begin({ document });
      toast(t("Taken from the file. Nothing is saved yet."));
    } catch { toast(t("This file holds no decoder."), { bad: true }); }
  },
  /** A name in messages is a point. */
  place(said, { id, name }) {
    const { doc } = this.raw;
    doc.points = [...(doc.points || []).filter((p) => p.said !== said), { said, point: { id, name } }];
    this.changed();
  },
  changed() {
    this.raw.picked = null;
    this.raw.dirty = true;
    this.raw.form.redraw();
    this.draw();
    this.ask();
  },

  soon() {
    clearTimeout(this.raw.timer);
    this.raw.timer = setTimeout(() => this.ask(), PAUSE);
  },
  /** What all messages become, as the decoder stands; an answer that was overtaken is dropped. */
  async ask() {
    const asking = (this.raw.asking += 1);
    const content = { document: this.named(), message: this.part("pasted").value };
    let tried = [], problems = [];
    try {
      tried = await call("tryDecoder", { content });
    } catch (error) { problems = error.problems || []; }
    if (asking !== this.raw.asking) return;
    this.raw.tried = tried;
    this.raw.problems = problems;
    this.part("sum").textContent = problems.map((p) => p.message).join(" ");
    this.draw();
  },
  /** A decoder that has no name yet can be tried all the same. */
  named() { return { ...this.raw.doc, name: this.raw.doc.name || t("New") }; },

  async save() {
    const { decoder, version, doc, source } = this.raw;
    const places = { sort: "decoders", thing: decoder };
    try {
      const content = { document: doc, version };
      const saved = await call(decoder === null ? "addThing" : "changeThing", { places, content });
      this.raw.dirty = false;
      toastLater(t("Saved. It reads from the next message on."));
      const here = { [source.sort]: source.id }, opened = { decoder: saved.id };
      const ofDevice = source.sort === "device";
      location.href = ofDevice ? addressOf("teachDevice", here, opened) : addressOf("teach", here, opened);
    } catch (error) {
      if (!this.raw.form.mark(error.problems || [])) toast(error.message, { bad: true });
    }
  },
}));
