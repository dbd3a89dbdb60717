// What part of the plan is shown: a box in metres, always within the plan.

/** How close one can come, in metres from left to right. */
const CLOSEST = 8;

/** The whole plan in a frame of some proportions (width by height): it fits, with room beside it. */
export function whole(plan, proportions) {
  const wide = Math.max(plan.wide, plan.tall * proportions), tall = wide / proportions;
  return { x: (plan.wide - wide) / 2, y: (plan.tall - tall) / 2, wide, tall };
}

/** Closer (a factor above 1) or farther, with a place staying where it is on the screen. */
export function zoomed(view, factor, [x, y], plan) {
  const most = whole(plan, view.wide / view.tall).wide;
  const wide = Math.min(most, Math.max(CLOSEST, view.wide / factor)), by = wide / view.wide;
  return kept({ x: x - (x - view.x) * by, y: y - (y - view.y) * by, wide, tall: view.tall * by }, plan);
}

/** Moved by metres. */
export const moved = (view, dx, dy, plan) => kept({ ...view, x: view.x + dx, y: view.y + dy }, plan);

/** With a place in the middle. */
export const centred = (view, [x, y], plan) => kept({ ...view, x: x - view.wide / 2, y: y - view.tall / 2 }, plan);

/** The plan does not leave the frame. */
function kept(view, plan) {
  return { ...view, x: held(view.x, view.wide, plan.wide), y: held(view.y, view.tall, plan.tall) };
}

const held = (at, shown, there) => (
  shown >= there ? (there - shown) / 2 : Math.min(Math.max(at, 0), there - shown)
);

/** A length for the scale: a round number of metres that takes about a fifth of the frame. */
export function scaleOf(view) {
  const wanted = view.wide / 5, ten = 10 ** Math.floor(Math.log10(wanted));
  return [5, 2, 1].map((n) => n * ten).find((n) => n <= wanted) || ten;
}
