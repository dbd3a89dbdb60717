// What became of the events that a rule was told of: from all of them to the runs.
import { shape } from "../kit/svg.js";
import { t } from "../kit/words.js";

const ROW = 22, NAMES = 210;
/** In the order in which a rule asks, with the part that is at fault. */
const ORDER = [
  ["initial", ""], ["circular", ""], ["paused", ""],
  ["called_off", "cause"], ["waiting", "cause"], ["not_provided", "provided"],
  ["outside_hours", "hours"], ["held_off", "hold_off"], ["joined", "hold_off"], ["summed_up", "hold_off"],
  ["still_running", "again"], ["extended", "again"],
];
const WORDS = {
  initial: t("known at the start already"), circular: t("set off by itself"), paused: t("paused at a camera"),
  called_off: t("called off"),
  waiting: t("still waited"), not_provided: t("conditions not met"), outside_hours: t("not in its hours"),
  held_off: t("held off"), joined: t("joined to an open alarm"), summed_up: t("summed up in a line"),
  still_running: t("still running"), extended: t("held for longer"),
};

/** Rows of the funnel: {words, left, gone, inner}: how many are left after it and how many it took. */
export function funnel({ considered, outcomes, turned_away: turned, turned_away_words: asked }) {
  let left = considered;
  const rows = [{ words: t("such events"), left, gone: 0 }];
  for (const [outcome, part] of ORDER) {
    const gone = outcomes[outcome];
    if (!gone) continue;
    left -= gone;
    rows.push({ words: WORDS[outcome], left, gone });
    if (part !== "provided") continue;
    const leaves = Object.entries(turned).filter(([path]) => path.split(".")[0] === part);
    rows.push(...leaves.map(([path, count]) => ({ words: asked[path] || path, gone: count, inner: true, left })));
  }
  return rows;
}

export function drawFunnel(svg, report) {
  const rows = funnel(report), width = svg.clientWidth - NAMES - 56, most = Math.max(1, report.considered);
  svg.replaceChildren();
  svg.setAttribute("height", rows.length * ROW + 4);
  rows.forEach(({ words, left, gone, inner }, i) => {
    const y = i * ROW, size = (n) => Math.max(n ? 2 : 0, (n / most) * width);
    const look = inner ? " inner" : "", name = { class: `name${look}`, x: inner ? 16 : 0, y: y + 15 };
    svg.append(shape("text", name, clipped(words, inner)));
    if (!inner) svg.append(shape("rect", { class: "act", x: NAMES, y: y + 4, width: size(left), height: 14 }));
    const begin = inner ? NAMES : NAMES + size(left);
    svg.append(shape("rect", { class: `gone${look}`, x: begin, y: y + 4, width: size(gone), height: 14 }));
    const count = gone ? `−${gone}` : String(left);
    svg.append(shape("text", { class: "tick", x: begin + size(gone) + 5, y: y + 15 }, count));
  });
}

const clipped = (words, inner) => (words.length > (inner ? 30 : 32) ? `${words.slice(0, inner ? 29 : 31)}…` : words);
