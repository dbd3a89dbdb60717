// Part of a list's page: somebody is put on it by a picture in which the recogniser finds faces.
import { call } from "../kit/ask.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

/** Around a box, so that one sees the whole head: as a share of its size. */
const AROUND = 0.25;
/** What a telephone takes is made smaller before it is sent: from so many bytes on, to sides of so many pixels. */
const LARGEST = 2_000_000, SIDE = 2400;

export const byPicture = () => ({
  faces: [], chosen: null, looking: false, pictureProblem: "", pictureUrl: "", pictureWide: 0, pictureHigh: 0,

  choosePicture(event) { this.lookAt(event.target.files[0]); event.target.value = ""; },
  dropPicture(event) { this.lookAt(event.dataTransfer.files[0]); },
  async lookAt(file) {
    if (!file) return;
    this.forgetPicture();
    this.looking = true;
    try {
      await this.show(file);
      const found = await call("facesIn", { file: this.picture });
      this.faces = found.map((f, number) => ({ ...f, number, part: this.partOf(f.box) }));
      [this.chosen] = this.faces;
    } catch (error) { this.pictureProblem = error.message; }
    this.looking = false;
  },
  /** A picture that the browser cannot show is for the recogniser to refuse. */
  async show(file) {
    Object.assign(this, { picture: file, pictureUrl: URL.createObjectURL(file) });
    const image = new Image();
    image.src = this.pictureUrl;
    await image.decode().catch(() => {});
    Object.assign(this, { pictureWide: image.naturalWidth, pictureHigh: image.naturalHeight });
    if (file.size > LARGEST && image.naturalWidth) this.picture = await smaller(image);
  },
  partOf([left, top, right, bottom]) {
    const wide = (right - left) * this.pictureWide, high = (bottom - top) * this.pictureHigh;
    const x = left * this.pictureWide - wide * AROUND, y = top * this.pictureHigh - high * AROUND;
    return [x, y, wide * (1 + 2 * AROUND), high * (1 + 2 * AROUND)].map(Math.round).join(" ");
  },
  forgetPicture() {
    if (this.pictureUrl) URL.revokeObjectURL(this.pictureUrl);
    Object.assign(this, { faces: [], chosen: null, pictureProblem: "", pictureUrl: "", picture: null });
  },
  chooseFace(f) { this.chosen = f; },
  isChosen(f) { return this.chosen === f || this.chosen?.number === f.number; },
  faceWordsOf(f) { return t("Face {n} of {all}", { n: f.number + 1, all: this.faces.length }); },

  betterLook(b) { return b.grave ? "state bad" : "state wait"; },
  get isGood() { return Boolean(this.chosen) && !this.chosen.better.length; },
  get hasDouble() { return Boolean(this.chosen?.alike.some((a) => a.same && a.list === this.id)); },
  isHere(a) { return a.list === this.id; },
  alikeKey(a) { return `${a.list} ${a.value}`; },
  alikeLook(a) { return a.same ? "state wait" : "state off"; },
  alikeWords(a) {
    return t("{percent} % like {name} ({list})", { percent: a.similar, name: a.shown, list: a.name });
  },
  addToWords(a) { return t("Add this picture to {name}", { name: a.shown }); },

  addTo(a, event) {
    const agreed = event.target.form.agreed.checked;
    this.put({ to: a.value, agreed }, t("“{name}” is known by one more picture.", { name: a.shown }));
  },
  enrol(event) {
    const form = event.target, text = (name) => form[name].value.trim();
    const content = { value: text("value"), label: text("label"), another: form.another.checked };
    if (text("valid_until")) content.valid_until = text("valid_until");
    const value = text("label") || text("value");
    this.put({ ...content, agreed: form.agreed.checked }, t("“{value}” is on the list.", { value }));
  },
  async put(content, words) {
    this.pictureProblem = "";
    this.looking = true;
    try {
      const whole = { ...content, face: this.chosen.number, picture: await base64(this.picture) };
      await call("enrol", { places: { list: this.id }, content: whole });
      this.forgetPicture();
      toast(words);
      await this.reload();
    } catch (error) { this.pictureProblem = error.message; }
    this.looking = false;
  },
});

function smaller(image) {
  const share = Math.min(1, SIDE / Math.max(image.naturalWidth, image.naturalHeight));
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [image.naturalWidth * share, image.naturalHeight * share];
  canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((done) => { canvas.toBlob(done, "image/jpeg", 0.92); });
}

function base64(blob) {
  return new Promise((done, failed) => {
    const reader = new FileReader();
    reader.onload = () => done(reader.result.split(",", 2)[1]);
    reader.onerror = () => failed(reader.error);
    reader.readAsDataURL(blob);
  });
}
