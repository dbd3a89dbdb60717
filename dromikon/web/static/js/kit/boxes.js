// Things in a picture as boxes, drawn over it in a drawing of 1600 by 900.
import { shape } from "./svg.js";

const WIDE = 1600, TALL = 900;

/** Each thing has its class, how sure that is (in percent), and its box in shares of the picture. */
export const boxes = (things) => things.map(({ class: kind, sure, box: [left, top, right, bottom] }) => {
  const x = left * WIDE, y = top * TALL;
  const width = Math.max(1, (right - left) * WIDE), height = Math.max(1, (bottom - top) * TALL);
  const words = sure ? `${kind} ${Math.round(sure)} %` : kind;
  const group = shape("g", {});
  group.append(shape("rect", { x, y, width, height }));
  group.append(shape("text", { x, y: Math.min(TALL - 20, y + height + 30) }, words));
  return group;
});
