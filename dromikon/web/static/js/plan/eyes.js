// What a camera sees on the plan: directions as on a compass, 0 upwards.

const PIECES = 14;

const at = ({ x, y }, degrees, far) => {
  const angle = (degrees * Math.PI) / 180;
  return [x + far * Math.sin(angle), y - far * Math.cos(angle)];
};

/** The corners of a view, as an SVG polygon has them. */
export function outline(point) {
  const { looks, view, reach } = point.eye;
  const rim = Array.from({ length: PIECES + 1 }, (_, i) => at(point, looks - view / 2 + (view * i) / PIECES, reach));
  return [[point.x, point.y], ...rim].map((p) => p.map((n) => n.toFixed(2)).join(",")).join(" ");
}

/** The ground of a band, as an SVG path has it: a piece of a ring, no farther than the camera sees. */
export function ring(point, { near, far }) {
  const { looks, view, reach } = point.eye, end = Math.min(far, reach);
  if (near >= end) return "";
  const rim = (radius, from, to) => Array.from({ length: PIECES + 1 }, (_, i) => (
    at(point, from + ((to - from) * i) / PIECES, radius)
  ));
  const [left, right] = [looks - view / 2, looks + view / 2];
  const places = [...rim(near, left, right), ...rim(end, right, left)];
  return `M ${places.map((p) => p.map((n) => n.toFixed(2)).join(" ")).join(" L ")} Z`;
}

/** Where its direction and reach are taken hold of: the far end, straight ahead. */
export const tip = (point) => at(point, point.eye.looks, point.eye.reach);

/** The direction and reach that lead from a point to a place. */
export function aimed(point, [x, y]) {
  const dx = x - point.x, dy = point.y - y;
  const looks = ((Math.atan2(dx, dy) * 180) / Math.PI + 360) % 360;
  return { looks: Math.round(looks), reach: Math.max(1, Math.round(Math.hypot(dx, dy) * 2) / 2) };
}
