// Times on the site's wall clock, and how long ago they were.
import { now as clock } from "./clock.js";
import { page } from "./page.js";
import { t } from "./words.js";

const formats = new Map();

/** 14:03, 14:03:20 or 05 Mar, 14:03:20, on the clock of the site. */
export function wall(at, withDate, withSeconds, zone = page.zone) {
  const key = `${zone} ${withDate} ${withSeconds}`;
  if (!formats.has(key)) {
    const options = { timeZone: zone, hour: "2-digit", minute: "2-digit", hourCycle: "h23" };
    if (withSeconds) options.second = "2-digit";
    if (withDate) Object.assign(options, { day: "2-digit", month: "short" });
    formats.set(key, new Intl.DateTimeFormat("en-GB", options));
  }
  return formats.get(key).format(at);
}

/** The day alone: 05 Mar. */
export const day = (at) => wall(at, true, false).split(",")[0];

export function relative(at, now = clock()) {
  const s = (now - at) / 1000;
  if (s < 0) return wall(at, false, true);
  if (s < 5) return t("now");
  if (s < 60) return t("{s} s ago", { s: Math.floor(s) });
  if (s < 3600) return t("{min} min ago", { min: Math.floor(s / 60) });
  if (s < 6 * 3600) return t("{h} h {min} min ago", { h: Math.floor(s / 3600), min: Math.floor((s % 3600) / 60) });
  return wall(at, s > 86400 || day(now) !== day(at), false);
}

/** A moment to come: 17:30, or Fri 04 Dec 17:30. */
export function upcoming(at, now = clock()) {
  if (day(at) === day(now) && at - now < 86_400_000) return wall(at, false, false);
  const weekday = new Intl.DateTimeFormat(document.documentElement.lang, { weekday: "short", timeZone: page.zone });
  return `${weekday.format(at)} ${wall(at, true, false).replace(",", "")}`;
}

export function refreshTimes(root = document) {
  for (const time of root.querySelectorAll("time[data-style=relative]")) {
    time.textContent = relative(Number(time.dataset.at));
  }
}

const offsets = new Map();

/** How far the site's wall clock is ahead of UTC, in ms. */
export function offset(at, zone = page.zone) {
  const hour = Math.floor(at / 36e5), key = `${zone} ${hour}`;
  if (!offsets.has(key)) offsets.set(key, wallAsUtc(hour * 36e5, zone) - hour * 36e5);
  return offsets.get(key);
}

function wallAsUtc(at, zone) {
  const fields = { year: "numeric", month: "numeric", day: "numeric", hour: "numeric", minute: "numeric" };
  const format = new Intl.DateTimeFormat("en-GB", { timeZone: zone, ...fields, hourCycle: "h23" });
  const p = Object.fromEntries(format.formatToParts(at).map((part) => [part.type, Number(part.value)]));
  return Date.UTC(p.year, p.month - 1, p.day, p.hour, p.minute);
}
