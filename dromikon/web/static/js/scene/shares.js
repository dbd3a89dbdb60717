// Corners as shares of the picture (from its left and top), and as drawings have them (-1 to 1, y upwards).

export const toShares = (points) => points.map(([x, y]) => [round((x + 1) / 2), round((1 - y) / 2)]);
export const fromShares = (corners) => corners.map(([x, y]) => [x * 2 - 1, 1 - y * 2]);
const round = (value) => Math.round(Math.max(0, Math.min(1, value)) * 10_000) / 10_000;

/** What a new detector begins with: a line across the middle, or an area in it. */
export const FIRST = {
  line: [[0.5, 0.85], [0.5, 0.45]],
  area: [[0.35, 0.5], [0.65, 0.5], [0.68, 0.85], [0.32, 0.85]],
};

/** The same shape beside itself, as for a row of bays; on the other side where there is no room. */
export function beside(corners) {
  const xs = corners.map(([x]) => x), wide = Math.max(...xs) - Math.min(...xs) || 0.1;
  const by = Math.max(...xs) + wide <= 1 ? wide : -wide;
  return corners.map(([x, y]) => [round(x + by), y]);
}

/** The next name of a row: "Bay 3" after "Bay 2", "Bay 2" after "Bay". */
export function nextName(name) {
  const counted = /^(.*?)(\d+)$/.exec(name);
  return counted ? `${counted[1]}${Number(counted[2]) + 1}` : `${name} 2`;
}

/** A name that no other has: "Lingers", "Lingers 2". */
export function freeName(name, taken) {
  let found = name;
  while (taken.includes(found)) found = nextName(found);
  return found;
}
