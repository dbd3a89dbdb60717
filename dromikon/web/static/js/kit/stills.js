// Stills that are not copied yet come from the recorder, each as soon as its moment has been recorded.
import { now } from "./clock.js";
import { t } from "./words.js";

/** The recorder writes so many ms later. */
const BEHIND = 600;
/** A browser has few connections, and the next alarm must not wait for pictures of the last. */
const AT_ONCE = 2;
const MOST_TRIES = 6;

export class Stills {
  constructor() {
    this.waiting = [];
    this.loading = 0;
  }

  /** Look for stills that nobody has asked for. */
  watch(root) {
    for (const image of root.querySelectorAll("[data-src]:not([data-asked])")) {
      image.dataset.asked = "1";
      this.later(image, Math.max(0, Number(image.dataset.stillAt) + BEHIND - now()));
    }
  }

  later(image, ms) {
    setTimeout(() => { this.waiting.push(image); this.next(); }, ms);
  }

  next() {
    while (this.loading < AT_ONCE && this.waiting.length) {
      const image = this.waiting.shift();
      if (image.isConnected) this.load(image);
    }
  }

  load(image) {
    this.loading += 1;
    const done = (then) => () => {
      then(image);
      this.loading -= 1;
      this.next();
    };
    image.addEventListener("load", done(shown), { once: true });
    image.addEventListener("error", done(() => this.again(image)), { once: true });
    from(image, image.dataset.src);
  }

  /** Not there yet: the recorder is asked again, more and more seldom. */
  again(image) {
    from(image, null);
    const tries = Number(image.dataset.tries || 0) + 1;
    image.dataset.tries = String(tries);
    if (tries <= MOST_TRIES) this.later(image, 1000 * 2 ** tries);
    else if (image.matches("img") && image.nextElementSibling) image.nextElementSibling.textContent = t("no picture");
  }
}

function shown(image) {
  image.removeAttribute("hidden");
  if (image.matches("img")) image.nextElementSibling?.remove();
}

/** Where a picture comes from; null for nowhere. A part of one is an image within a drawing. */
function from(image, source) {
  const name = image.matches("img") ? "src" : "href";
  if (source) { image.setAttribute(name, source); return; }
  image.removeAttribute(name);
  image.setAttribute("hidden", "");
}
