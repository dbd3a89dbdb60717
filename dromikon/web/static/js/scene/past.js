// A detector tried over the past: its hits as pictures, how many by the hour, how that moves with its numbers, and
// what is said of single hits.
import { addressOf, call } from "../kit/ask.js";
import { el } from "../form/dom.js";
import { now } from "../kit/clock.js";
import { t, tn } from "../kit/words.js";
import { wall } from "../kit/times.js";

const HOUR = 3_600_000, DAY = 24 * HOUR;
/** So many pictures of hits are shown, the latest. */
const SHOWN = 24;
const dayAndTime = (at) => wall(at, true, true);

export class Past {
  /** `look` is told which moment somebody wants to see; `take` which setting they want to have. */
  constructor(root, camera, { look, take }) {
    Object.assign(this, { root, camera, look, take, marks: new Map(), asked: 0, end: 0, days: 1 });
    root.addEventListener("click", (e) => this.click(e));
  }

  part(name) { return this.root.querySelector(`[data-past="${name}"]`); }

  async search(document, vary) {
    const mine = (this.asked += 1), start = (this.end = now()) - this.days * DAY;
    this.part("words").textContent = t("Looking …");
    const marks = [...this.marks].map(([at, should]) => ({ at, should }));
    const content = { document, start, end: this.end, vary, marks };
    const found = await call("searchScene", { places: { camera: this.camera }, content });
    if (mine !== this.asked) return;
    this.root.hidden = false;
    this.part("words").textContent = said(found);
    this.part("hours").replaceChildren(...bars(found.by_hour, start));
    this.part("varied").replaceChildren(...varied(found.varied || []));
    this.part("better").replaceChildren(...(found.better || []).map(offer));
    this.part("hits").replaceChildren(...found.hits.slice(-SHOWN).reverse().map((hit) => this.tile(hit)));
  }

  tile({ at, box, class: kind, sure }) {
    const picture = addressOf("picture", { camera: this.camera }, { at, width: 320 });
    const told = this.marks.get(at);
    const mark = (should, words) => el("button", {
      class: "btn small", type: "button", "data-mark": at, "data-should": should ? "1" : "",
      "aria-pressed": String(told === should),
    }, words);
    const drawn = el("span", { class: "hit-box" });
    if (box) place(drawn, box);
    return el("figure", { class: "hit" },
      el("button", { class: "plain", type: "button", "data-look": at, "aria-label": dayAndTime(at) },
        el("img", { src: picture, alt: "", loading: "lazy" }), drawn),
      el("figcaption", {}, el("span", { class: "figures" }, dayAndTime(at)), " ",
        el("span", { class: "quiet" }, kind ? `${kind} ${Math.round(sure)} %` : "")),
      el("span", { class: "row" }, mark(true, t("right")), mark(false, t("should not"))));
  }

  click(e) {
    const pressed = e.target.closest("[data-look], [data-mark], [data-setting]");
    const { look, mark, should, setting, value } = pressed?.dataset || {};
    if (look) this.look(Number(look));
    if (setting) this.take(setting, Number(value));
    if (!mark) return;
    const at = Number(mark), wanted = should === "1";
    if (this.marks.get(at) === wanted) this.marks.delete(at);
    else this.marks.set(at, wanted);
    // What was said is seen at once; what follows from it takes a search.
    for (const other of this.root.querySelectorAll(`[data-mark="${at}"]`)) {
      other.setAttribute("aria-pressed", String(this.marks.get(at) === (other.dataset.should === "1")));
    }
    this.take();
  }
}

function place(drawn, [left, top, right, bottom]) {
  const percent = (share) => `${(100 * share).toFixed(2)}%`;
  Object.assign(drawn.style, {
    left: percent(left), top: percent(top), width: percent(right - left), height: percent(bottom - top),
  });
}

function said({ count, minutes, minutes_kept: kept }) {
  const told = tn("{count} time", "{count} times", count);
  if (!kept) return t("Nothing is kept of that stretch yet: what this camera sees is kept from now on.");
  const hours = (count) => t("{n} h", { n: Math.round(count / 60) });
  const span = (count) => (count < 120 ? t("{n} min", { n: count }) : hours(count));
  const values = { times: told, kept: span(kept), whole: span(minutes) };
  return t("It would have told {times}. Of {whole}, {kept} are kept.", values);
}

function bars(counts, start) {
  const most = Math.max(1, ...counts);
  return counts.map((count, hour) => {
    const bar = el("i", { title: `${dayAndTime(start + hour * HOUR)}: ${count}` });
    bar.style.height = `${Math.round((100 * count) / most)}%`;
    return bar;
  });
}

function varied(rows) {
  const most = Math.max(1, ...rows.map((r) => r.count));
  return rows.map(({ value, count }) => {
    const bar = el("i", {});
    bar.style.width = `${Math.round((100 * count) / most)}%`;
    const number = (tag, of) => el(tag, { class: "figures" }, String(of));
    return el("li", {}, number("span", value), bar, number("strong", count));
  });
}

function offer({ setting, value, count, kept, dropped }) {
  const told = tn("{count} time", "{count} times", count);
  const words = t("{setting} {value}: {times}; {kept} that it should tell, and {dropped} that it should not are gone", {
    setting, value, times: told, kept, dropped,
  });
  const take = { class: "btn small", type: "button", "data-setting": setting, "data-value": value };
  return el("li", {}, el("button", take, t("Take it")), " ", words);
}
