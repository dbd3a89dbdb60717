// What lies where on a lane. Events are [seq, kind, point, phase, at, late, test], runs are
// [ref, rule, point, zero, event, steps].
// No document in here.

const LOST = "device.lost";

/** Those of some points within a stretch of time; `at` is the place of their instant. */
export const within = (marks, points, { start, end }, at) =>
  marks.filter((m) => points.has(m[2]) && m[at] >= start && m[at] <= end);

/** States as bars from begin to end: [{start, end, lost}]. One that has not ended lasts until now. */
export function states(events, start, now) {
  const open = new Map(), found = [];
  // One that somebody made up for a test is no state of the point.
  for (const [, kind, point, phase, at] of events.filter((e) => !e[6]).sort((a, b) => a[4] - b[4])) {
    const key = `${kind}@${point}`;
    if (phase === "begin") open.set(key, { start: at, lost: kind === LOST });
    if (phase !== "end") continue;
    // One that began before the stretch is drawn from its beginning.
    if (open.has(key)) found.push({ ...open.get(key), end: at });
    else found.push({ start, end: at, lost: kind === LOST });
    open.delete(key);
  }
  return [...found, ...[...open.values()].map((bar) => ({ ...bar, end: now }))];
}

/** Marks gathered to columns of some pixels: [[x, marks]]. */
export function columns(marks, at, axis, pixels) {
  const found = new Map();
  for (const mark of marks) {
    const x = Math.round(axis.x(mark[at]) / pixels) * pixels;
    if (!found.has(x)) found.set(x, []);
    found.get(x).push(mark);
  }
  return [...found];
}

/** Columns of what happened; an end is the end of a bar, not a mark of its own. */
export const happenings = (events, axis) => columns(events.filter((e) => e[3] !== "end"), 4, axis, 4);
export const responses = (runs, axis) => columns(runs, 3, axis, 8);

export const tested = (events) => events.every((e) => e[6]);
export const lost = (events) => events.some((e) => e[1] === LOST);
export const alarmed = (runs) => runs.some((r) => r[5].includes("alarm"));

/** The run one step before or after the chosen event, in time; the newest where none is chosen. */
export function neighbour(runs, chosen, way) {
  const sorted = [...runs].sort((a, b) => a[3] - b[3]);
  const at = sorted.findIndex((r) => r[4] === chosen);
  return sorted[Math.max(0, Math.min(sorted.length - 1, at < 0 ? sorted.length - 1 : at + way))] || null;
}
