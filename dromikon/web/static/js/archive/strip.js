// The time axis of one camera: bookmarks above, what happened, and at the foot what is recorded.
import { Axis } from "../kit/axis.js";
import { drawTicks, prepare, theme } from "../kit/canvas.js";

const HEIGHT = 84, TOP = 20, WORDS = 14;
const BOOKMARK = { y: 28, height: 14 }, EVENT = { y: 54, height: 9 }, RECORDED = { y: 66, height: 9 };

/** Draws it and answers its axis. */
export function drawStrip(canvas, { from, to, at, coverage, bookmarks, events }) {
  const { pen, width } = prepare(canvas, HEIGHT);
  const colours = theme();
  const axis = new Axis(from, to, 0, width);
  const box = (colour, x, y, w, h, alpha = 1) => {
    Object.assign(pen, { fillStyle: colour, globalAlpha: alpha });
    pen.fillRect(x, y, w, h);
    pen.globalAlpha = 1;
  };
  const stretch = ({ start, end }, shortest) => [axis.x(start), Math.max(shortest, axis.x(end) - axis.x(start))];

  drawTicks(pen, axis, colours, { top: TOP, bottom: HEIGHT, words: WORDS });
  for (const recorded of coverage) {
    const [x, w] = stretch(recorded, 1);
    box(colours.good, x, RECORDED.y, w, RECORDED.height, 0.45);
  }
  for (const event of events) box(colours.ink, Math.round(axis.x(event)), EVENT.y, 1.5, EVENT.height);
  for (const bookmark of bookmarks) {
    const [x, w] = stretch(bookmark, 3);
    box(colours.own, x, BOOKMARK.y, w, BOOKMARK.height, 0.8);
    box(colours.wait_fill, axis.x(bookmark.zero) - 1, BOOKMARK.y - 4, 2, BOOKMARK.height + 10);
  }
  needle(pen, axis.x(at), colours.ink);
  return axis;
}

function needle(pen, x, colour) {
  pen.fillStyle = colour;
  pen.fillRect(x - 1, TOP - 2, 2, HEIGHT);
  pen.beginPath();
  for (const [dx, y] of [[-6, TOP - 2], [6, TOP - 2], [0, TOP + 7]]) pen.lineTo(x + dx, y);
  pen.fill();
}
