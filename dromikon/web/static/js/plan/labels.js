// Which names can be read beside their marks without lying over each other, and on which side each stands.

/** Sizes in pixels. */
const HIGH = 16, GAP = 4, EACH = 6.6;

/**
 * Names for marks at [x, y] in pixels, the more important first; `half`: half of a mark's size; `within`: [left, top,
 * right, bottom] of what is shown. Answers with one entry each: {dx, dy, anchor}, or null where there is no room.
 */
export function placed(marks, half, within) {
  const taken = marks.map(({ x, y }) => [x - half, y - half, x + half, y + half]);
  return marks.map((mark, i) => {
    for (const side of sides(mark, half)) {
      if (inside(side.box, within) && !taken.some((box, k) => k !== i && overlap(box, side.box))) {
        taken.push(side.box);
        return { dx: side.dx, dy: side.dy, anchor: side.anchor };
      }
    }
    return null;
  });
}

function sides({ x, y, name }, half) {
  const wide = name.length * EACH, far = half + GAP;
  return [
    { dx: far, dy: 4, anchor: "start", box: [x + far, y - HIGH / 2, x + far + wide, y + HIGH / 2] },
    { dx: -far, dy: 4, anchor: "end", box: [x - far - wide, y - HIGH / 2, x - far, y + HIGH / 2] },
    { dx: 0, dy: far + 11, anchor: "middle", box: [x - wide / 2, y + far, x + wide / 2, y + far + HIGH] },
    { dx: 0, dy: -far, anchor: "middle", box: [x - wide / 2, y - far - HIGH, x + wide / 2, y - far] },
  ];
}

const inside = (box, [left, top, right, bottom]) => (
  box[0] >= left && box[1] >= top && box[2] <= right && box[3] <= bottom
);
const overlap = (a, b) => a[0] < b[2] && b[0] < a[2] && a[1] < b[3] && b[1] < a[3];
