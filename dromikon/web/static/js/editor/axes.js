// Axes side by side on one line: where a second of each lies, broken stretches left out. Pure; nothing is drawn here.

/** Pixels of a break, of the space between two axes, and of the smallest stretch. */
const BREAK = 28, APART = 46, LEAST = 58;
const STEPS = [1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1200, 1800, 3600, 7200, 14400, 43200, 86400];
const CLOSE = 64;

/** A scale: {pieces: [{anchor, from, to, left, width}], width}. `view` zooms and shifts it. */
export function lay(axes, width, { zoom = 1, shift = 0 } = {}) {
  const pieces = axes.flatMap(({ anchor, stretches }) => stretches.map(([from, to], i) => ({ anchor, from, to, i })));
  const breaks = pieces.filter((p) => p.i).length, gaps = axes.length - 1;
  const room = width * zoom - breaks * BREAK - gaps * APART;
  const shares = shared(pieces.map((p) => p.to - p.from), room);
  let left = -shift;
  pieces.forEach((piece, i) => {
    if (i) left += piece.i ? BREAK : APART;
    Object.assign(piece, { left, width: shares[i] });
    left += shares[i];
  });
  return { pieces, width };
}

/** Room by length; the short ones have the least that can be read, and the others what is left. */
function shared(lengths, room) {
  const least = Math.min(LEAST, room / lengths.length), small = new Set();
  for (;;) {
    const rest = room - small.size * least;
    const total = lengths.reduce((sum, l, i) => (small.has(i) ? sum : sum + l), 0);
    const found = lengths.findIndex((l, i) => !small.has(i) && (l / total) * rest < least);
    if (found < 0) return lengths.map((l, i) => (small.has(i) ? least : (l / total) * rest));
    small.add(found);
  }
}

const of = (scale, anchor) => scale.pieces.filter((p) => p.anchor === anchor);

/** Where a second lies; in a break as far as it is through it, beyond the ends on the same line. */
export function place(scale, anchor, second) {
  const pieces = of(scale, anchor), at = pieces.findIndex((p) => second <= p.to);
  const piece = pieces[at < 0 ? pieces.length - 1 : at], before = pieces[at - 1];
  if (second < piece.from && before) {
    const share = (second - before.to) / (piece.from - before.to);
    return before.left + before.width + share * BREAK;
  }
  return piece.left + ((second - piece.from) / (piece.to - piece.from)) * piece.width;
}

/** Seconds that a pixel is worth when an edge that stands for `value` is moved. On a stretch that shows little besides
 * the edge itself, it is a share of the value. */
export function worth(scale, anchor, second, value) {
  const piece = of(scale, anchor).find((p) => second >= p.from && second <= p.to) || of(scale, anchor).at(-1);
  const length = piece.to - piece.from;
  return length < value / 8 ? value / 150 : length / piece.width;
}

/** A value as a person would say it: a multiple of a round number that a few pixels are worth. */
export function round(value, seconds) {
  const step = [0.5, ...STEPS].find((s) => s >= seconds * 3) || 3600;
  return Math.round(value / step) * step;
}

/** Marks of a stretch: [{at, words}], as close as they can be read. */
export function ticks({ from, to, width }) {
  const step = STEPS.find((s) => (s / (to - from)) * width >= CLOSE) || STEPS.at(-1);
  const found = [];
  for (let s = Math.ceil(from / step) * step; s <= to; s += step) found.push({ at: s, words: span(s) });
  if (!found.length) found.push({ at: (from + to) / 2, words: span(Math.round((from + to) / 2)) });
  return found;
}

/** Seconds in few letters: 45 s, 2 min, 1 h 30. */
export function span(s) {
  const sign = s < 0 ? "−" : "", n = Math.abs(s);
  if (n < 120 || n % 60) return `${sign}${Number(n.toFixed(1))}${n ? " s" : ""}`;
  if (n < 7200) return `${sign}${n / 60} min`;
  const hours = Math.floor(n / 3600), minutes = Math.round((n % 3600) / 60);
  return `${sign}${hours} h${minutes ? ` ${minutes}` : ""}`;
}

/** [left, right] of every break. */
export const breaks = ({ pieces }) =>
  pieces.filter((p) => p.i).map((p) => [p.left - BREAK, p.left]);
