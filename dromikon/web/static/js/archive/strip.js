// The time axis: alarms, bookmarks and what happened above, and at the foot what is recorded, a row for each camera.
import { Axis } from "../kit/axis.js";
import { drawTicks, prepare, theme } from "../kit/canvas.js";
import { wall } from "../kit/times.js";
import { t } from "../kit/words.js";
import { TALL, drawCurves } from "./curves.js";

const TOP = 20, WORDS = 14;
const BOOKMARK = { y: 28, tall: 13 }, EVENT = { y: 47, tall: 13 }, ROW = { y: 66, tall: 7, gap: 3 };

/** Draws it and answers {axis, spots}: what lies where, for the pointer. */
export function drawStrip(canvas, { from, to, at, recorded, marks, curves, cutFrom, cutTo }, names) {
  const below = ROW.y + Math.max(1, recorded.length) * (ROW.tall + ROW.gap) + 4;
  const height = below + curves.length * TALL + 2;
  canvas.style.height = `${height}px`;
  const { pen, width } = prepare(canvas, height);
  const drawing = { pen, colours: theme(), axis: new Axis(from, to, 0, width), spots: [], width };
  drawTicks(pen, drawing.axis, drawing.colours, { top: TOP, bottom: height, words: WORDS });
  cut(drawing, cutFrom, cutTo, height);
  recorded.forEach((one, row) => coverage(drawing, one, row, recorded.length > 1, names));
  drawCurves(drawing, curves, below, at);
  for (const mark of marks) (DRAWN[mark.sort] || event)(drawing, mark, recorded);
  needle(pen, drawing.axis.x(at), drawing.colours.ink, height);
  return { axis: drawing.axis, spots: drawing.spots };
}

function box({ pen }, colour, x, y, w, h, alpha = 1) {
  Object.assign(pen, { fillStyle: colour, globalAlpha: alpha });
  pen.fillRect(x, y, w, h);
  pen.globalAlpha = 1;
}

/** What is chosen: from here, to there. */
function cut(drawing, from, to, height) {
  const x = (at) => drawing.axis.x(at), colour = drawing.colours.wait_fill;
  if (from !== null && to !== null) box(drawing, colour, x(from), TOP, Math.max(1, x(to) - x(from)), height - TOP, 0.3);
  for (const at of [from, to]) if (at !== null) box(drawing, colour, x(at) - 1, TOP, 2, height - TOP);
}

const stretch = ({ axis }, { at, end }, shortest) => [axis.x(at), Math.max(shortest, axis.x(end) - axis.x(at))];
const rowAt = (row) => ROW.y + row * (ROW.tall + ROW.gap);

function coverage(drawing, { camera, stretches }, row, several, names) {
  for (const { start: at, end } of stretches) {
    const [x, w] = stretch(drawing, { at, end }, 1);
    box(drawing, drawing.colours.good, x, rowAt(row), w, ROW.tall, 0.45);
  }
  if (!several) return;
  const { pen, colours } = drawing;
  Object.assign(pen, { textAlign: "left", fillStyle: colours.ink, font: '600 10px "Atkinson", sans-serif' });
  pen.fillText(names[camera] || camera, 4, rowAt(row) + ROW.tall);
}

/** What a rule had recorded lies under its camera's row. */
function byRule(drawing, mark, recorded) {
  const row = recorded.findIndex((one) => one.camera === mark.camera);
  if (row < 0) return;
  const [x, w] = stretch(drawing, mark, 3);
  box(drawing, drawing.colours.own, x, rowAt(row) + ROW.tall - 2, w, 3);
  spot(drawing, mark, x, rowAt(row), w, ROW.tall, t("Recorded by {rule}", { rule: mark.words }));
}

function bookmark(drawing, mark) {
  const [x, w] = stretch(drawing, mark, 3);
  box(drawing, drawing.colours.own, x, BOOKMARK.y, w, BOOKMARK.tall, 0.75);
  spot(drawing, mark, x, BOOKMARK.y, w, BOOKMARK.tall, t("Bookmark: {title}", { title: mark.words }));
}

function alarm(drawing, mark) {
  const { pen, axis, colours } = drawing, x = axis.x(mark.at), y = EVENT.y - 3;
  pen.fillStyle = colours.alert;
  pen.beginPath();
  for (const [dx, dy] of [[-5, 0], [5, 0], [5, 5], [0, 11], [-5, 5]]) pen.lineTo(x + dx, y + dy);
  pen.fill();
  spot(drawing, mark, x - 5, y, 10, 11, `${t("Alarm")}: ${mark.words}`);
}

function event(drawing, mark) {
  const x = Math.round(drawing.axis.x(mark.at));
  box(drawing, drawing.colours.ink, x, EVENT.y, 1.5, EVENT.tall, 0.85);
  spot(drawing, mark, x, EVENT.y, 2, EVENT.tall, `${mark.words}, ${mark.place}`);
}

const DRAWN = { bookmark, alarm, event, recorded: byRule };

function spot(drawing, mark, x, y, wide, tall, words) {
  if (x + wide < 0 || x > drawing.width) return;
  drawing.spots.push({ mark, x, y, wide, tall, words: `${wall(mark.at, false, true)} ${words}` });
}

function needle(pen, x, colour, height) {
  pen.fillStyle = colour;
  pen.fillRect(x - 1, TOP - 2, 2, height);
  pen.beginPath();
  for (const [dx, y] of [[-6, TOP - 2], [6, TOP - 2], [0, TOP + 7]]) pen.lineTo(x + dx, y);
  pen.fill();
}
