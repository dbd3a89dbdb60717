// A year by days: each cell is a day from 0 to 24 o'clock, filled where it is inside.
import { shape } from "../kit/svg.js";
import { t } from "../kit/words.js";
import { DAY } from "./spans.js";

const CELL = 30, HIGH = 24, LEFT = 40, TOP = 20, ROW = 29;
const two = (n) => String(n).padStart(2, "0");
const clock = (n) => `${two(Math.floor(n / 60))}:${two(n % 60)}`;

/** Draw days as the server tells them; `chosen(day)` is called for one that is clicked. */
export function drawYear(svg, days, { today, chosen }) {
  const heads = Array.from({ length: 31 }, (_, i) =>
    shape("text", { x: LEFT + i * (CELL + 1) + CELL / 2, y: 13, "text-anchor": "middle" }, i + 1));
  const months = Array.from({ length: 12 }, (_, i) =>
    shape("text", { x: 0, y: TOP + i * ROW + 17 }, monthName(i)));
  svg.replaceChildren(...heads, ...months, ...days.map((day) => cell(day, today, chosen)));
}

/** 1 Jun, of a month and day such as 06-01; what is none of them is shown as it is. */
export function dayOfYear(text) {
  const at = new Date(`2028-${text}T12:00:00Z`);
  if (Number.isNaN(at.getTime())) return text;
  return new Intl.DateTimeFormat(document.documentElement.lang, { day: "numeric", month: "short", timeZone: "UTC" })
    .format(at);
}

const date = (text) => new Date(`${text}T12:00:00Z`);
const monthName = (i) => new Intl.DateTimeFormat(document.documentElement.lang, { month: "short", timeZone: "UTC" })
  .format(new Date(Date.UTC(2026, i, 15)));
const dayName = (text) => new Intl.DateTimeFormat(document.documentElement.lang, {
  weekday: "short", day: "numeric", month: "short", timeZone: "UTC",
}).format(date(text));

function cell(day, today, chosen) {
  const at = date(day.day), x = LEFT + (at.getUTCDate() - 1) * (CELL + 1), y = TOP + at.getUTCMonth() * ROW;
  const weekend = [0, 6].includes(at.getUTCDay()) ? " weekend" : "";
  const look = `year-day${weekend}${day.excepted ? " excepted" : ""}${day.day === today ? " today" : ""}`;
  const node = shape("g", { class: look, transform: `translate(${x} ${y})`, "data-day": day.day });
  node.append(shape("title", {}, `${dayName(day.day)}: ${wordsOf(day)}`));
  node.append(shape("rect", { class: "day", width: CELL, height: HIGH }));
  for (const [start, end] of day.spans) {
    node.append(shape("rect", {
      class: "open", x: (start / DAY) * CELL, y: 3, width: ((end - start) / DAY) * CELL, height: HIGH - 6,
    }));
  }
  if (day.excepted) node.append(shape("path", { class: "sign", d: `M${CELL - 7} 0h7v7z` }));
  node.addEventListener("click", () => chosen(day));
  return node;
}

function wordsOf(day) {
  const times = day.spans.map(([s, e]) => `${clock(s)}–${clock(e)}`).join(", ") || t("closed");
  return day.why ? `${times} (${day.why})` : times;
}
