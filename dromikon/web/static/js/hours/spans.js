// The spans of a week's days, as text such as "09:00-17:30" or "sunset-sunrise+15", painted by quarter hours.

export const DAYS = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];
export const QUARTER = 15, DAY = 1440;
const CLOCK = /^(\d\d):(\d\d)-(\d\d):(\d\d)$/;
const END = /^(?:(\d\d):(\d\d)|(sunrise|sunset)([+-]\d+)?)$/;

/** [start, end] of a span by the clock in minutes, the end perhaps past midnight; null for one by the sun. */
export function minutes(span) {
  const m = CLOCK.exec(span);
  if (!m) return null;
  const start = m[1] * 60 + Number(m[2]), end = m[3] * 60 + Number(m[4]);
  return [start, end > start ? end : end + DAY];
}

/** The same for any span that can be read, with the sun of one day: {sunrise, sunset} in minutes. */
export function drawn(span, sun) {
  const [start, end] = ends(span);
  const from = minute(start, sun), to = minute(end, sun);
  if (from === null || to === null) return null;
  if (to <= from && start.startsWith("sunrise") && end.startsWith("sunset")) return [from, from];
  return [from, to > from ? to : to + DAY];
}

/** A span is cut at the dash behind which a time begins: offsets have dashes, too. */
function ends(span) {
  const at = span.search(/-(?=\d\d:|sun)/);
  return at < 0 ? [span, ""] : [span.slice(0, at), span.slice(at + 1)];
}

function minute(end, sun) {
  const m = END.exec(end);
  if (!m) return null;
  if (m[3]) return Math.max(0, Math.min(DAY, sun[m[3]] + Number(m[4] || 0)));
  return m[1] * 60 + Number(m[2]);
}

const two = (n) => String(n).padStart(2, "0");
const clock = (n) => `${two(Math.floor(n / 60))}:${two(n % 60)}`;

/** Minutes as text; a span is at most a day long. */
export function written([start, end]) {
  const last = Math.min(end, start + DAY);
  return `${clock(start)}-${clock(last > DAY ? last - DAY : last)}`;
}

/** What is typed for a day, as spans. */
export const typed = (text) => text.split(",").map((s) => s.trim()).filter(Boolean);
export const shown = (spans) => (spans || []).join(", ");

/** A week in which a stretch of a day is inside or outside; minutes from 0 to 1440. Spans by the sun stay as they are.
 * What began the evening before is cut as well, and what is left of it behind the cut is this day's own. */
export function painted(week, day, from, to, on) {
  const [before, next] = [DAYS[(day + 6) % 7], DAYS[(day + 1) % 7]], here = DAYS[day];
  const found = { ...week };
  if (on) {
    found[here] = joined(found[here], [[from, to]]);
  } else {
    cut(found, before, here, from + DAY, to + DAY);
    cut(found, here, next, from, to);
  }
  for (const name of DAYS) if (!found[name]?.length) delete found[name];
  return found;
}

function cut(week, name, following, from, to) {
  const pieces = clocks(week[name]).flatMap(([s, e]) => [[s, Math.min(e, from)], [Math.max(s, to), e]]);
  const left = pieces.filter(([s, e]) => s < e);
  week[name] = joined(suns(week[name]), left.filter(([s]) => s < DAY));
  const later = left.filter(([s]) => s >= DAY).map(([s, e]) => [s - DAY, e - DAY]);
  if (later.length) week[following] = joined(week[following], later);
}

const clocks = (spans) => (spans || []).map(minutes).filter(Boolean);
const suns = (spans) => (spans || []).filter((s) => !minutes(s));

/** Spans with stretches added: in order, those that touch as one, those by the sun behind them. */
function joined(spans, more) {
  const all = [...clocks(spans), ...more].sort(([a], [b]) => a - b), kept = [];
  for (const [start, end] of all) {
    const last = kept[kept.length - 1];
    if (last && start <= last[1]) last[1] = Math.max(last[1], end);
    else kept.push([start, end]);
  }
  return [...kept.map(written), ...suns(spans)];
}

/** What of a day is drawn: its own stretches to midnight, and those that began the evening before. */
export function stretches(week, day, sun) {
  const of = (name) => (week[name] || []).map((s) => ({ at: drawn(s, sun), bySun: !minutes(s) })).filter((s) => s.at);
  const own = of(DAYS[day]).map(({ at, bySun }) => ({ from: at[0], to: Math.min(at[1], DAY), bySun, tail: false }));
  const late = of(DAYS[(day + 6) % 7]).filter(({ at }) => at[1] > DAY);
  return [...own, ...late.map(({ at, bySun }) => ({ from: 0, to: at[1] - DAY, bySun, tail: true }))];
}

/** Whether a minute of a day is inside by the clock. */
export const inside = (week, day, at) =>
  stretches(week, day, { sunrise: 0, sunset: 0 }).some((s) => !s.bySun && s.from <= at && at < s.to);
