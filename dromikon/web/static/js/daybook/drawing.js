// Drawing the lanes: what happened above a lane's line, what the system did below it.
import { drawTicks, prepare, theme } from "../kit/canvas.js";
import { wall } from "../kit/times.js";
import { t, tn } from "../kit/words.js";
import { alarmed, happenings, lost, responses, states, tested, within } from "./lanes.js";

export const LEFT = 132, RIGHT = 14;
const TOP = 26;
const FONT = '"Atkinson", sans-serif';

/** Draws everything; answers the spots that can be pointed at: [{x, y0, y1, event, count, text}]. */
export class Drawing {
  constructor(canvas, { lanes, names, kinds }) {
    Object.assign(this, { canvas, lanes, names, kinds, spots: [] });
    // Many lanes are lower, so that a site fits on a page.
    this.tall = lanes.length > 5 ? 62 : 104;
  }

  get width() { return this.canvas.clientWidth; }

  draw(axis, { events, runs, chosen }) {
    const height = TOP + this.lanes.length * this.tall + 6;
    this.canvas.style.height = `${height}px`;
    const { pen, width } = prepare(this.canvas, height);
    Object.assign(this, { pen, axis, colours: theme(), chosen, spots: [] });
    drawTicks(pen, axis, this.colours, { top: TOP - 4, bottom: height, words: 15, margin: 20 });
    this.lanes.forEach((lane, i) => {
      const points = new Set(lane.points);
      this.lane(lane, TOP + i * this.tall, within(events, points, axis, 4), within(runs, points, axis, 3));
    });
    const now = axis.x(Date.now());
    if (now <= width) this.box(this.colours.own, Math.round(now) - 1, TOP - 4, 2, height - TOP);
  }

  lane(lane, top, events, runs) {
    const { pen, colours, width, tall } = this;
    const line = top + Math.round(tall * 0.58);
    this.box(colours.lane, LEFT, top + 4, width - LEFT, tall - 8);
    this.box(colours.line_strong, LEFT, line, width - LEFT, 1);
    pen.textAlign = "left";
    Object.assign(pen, { fillStyle: colours.ink, font: `600 13.5px ${FONT}` });
    pen.fillText(lane.name, 12, line - 6, LEFT - 20);
    Object.assign(pen, { fillStyle: colours.quiet, font: `12px ${FONT}` });
    const happened = tn("{count} event", "{count} events", events.length);
    const done = tn("{count} run", "{count} runs", runs.length);
    pen.fillText(`${happened}, ${done}`, 12, line + 12, LEFT - 20);
    this.states(events, line);
    this.happenings(events, line);
    this.responses(runs, line);
  }

  states(events, line) {
    const { axis, colours } = this;
    for (const bar of states(events, axis.start, Math.min(Date.now(), axis.end))) {
      const x = Math.max(LEFT, axis.x(bar.start));
      this.box(bar.lost ? colours.alert : colours.wait_fill, x, line - 5, Math.max(2, axis.x(bar.end) - x), 4, 0.7);
    }
  }

  /** One stem for each event; where there are many, stems gather to columns whose height is their number. */
  happenings(events, line) {
    const { pen, colours, tall } = this;
    for (const [x, gathered] of happenings(events, this.axis)) {
      const height = Math.min(tall * 0.42, 12 + 5 * Math.log2(gathered.length));
      const state = this.kinds[gathered[0][1]]?.state;
      const colour = lost(gathered) ? colours.alert : state ? colours.wait : colours.ink;
      this.box(colour, x - 1, line - height, 2, height - 1, 0.8);
      pen.beginPath();
      pen.arc(x, line - height, gathered.length > 1 ? 3.2 : 2.6, 0, 7);
      // A test is hollow.
      if (tested(gathered)) Object.assign(pen, { fillStyle: colours.lane, strokeStyle: colour, lineWidth: 1.5 });
      pen.fill();
      if (tested(gathered)) pen.stroke();
      this.spot(x, line - 48, line, gathered[0][0], gathered.length, this.happened(gathered));
    }
  }

  responses(runs, line) {
    const { pen, colours } = this;
    for (const [x, gathered] of responses(runs, this.axis)) {
      const alarm = alarmed(gathered);
      this.box(alarm ? colours.own : colours.good, x - 1, line + 2, 2, 12);
      if (alarm) this.pennant(x, line + 12);
      else pen.fillRect(x - 4, line + 12, 8, 8);
      if (gathered.some((r) => r[4] === this.chosen)) {
        Object.assign(pen, { strokeStyle: colours.ink, lineWidth: 2 });
        pen.strokeRect(x - 9, line + 8, 18, 21);
      }
      this.spot(x, line, line + 30, gathered[0][4], gathered.length, responded(gathered));
    }
  }

  pennant(x, y) {
    const { pen } = this;
    pen.beginPath();
    for (const [dx, dy] of [[-6, 0], [6, 0], [6, 6], [0, 13], [-6, 6]]) pen.lineTo(x + dx, y + dy);
    pen.fill();
  }

  box(colour, x, y, width, height, alpha = 1) {
    Object.assign(this.pen, { fillStyle: colour, globalAlpha: alpha });
    this.pen.fillRect(x, y, width, height);
    this.pen.globalAlpha = 1;
  }

  spot(x, y0, y1, event, count, text) { this.spots.push({ x, y0, y1, event, count, text }); }

  /** The lane whose name lies under the pointer. */
  named({ offsetX: x, offsetY: y }) {
    return x < LEFT ? this.lanes[Math.floor((y - TOP) / this.tall)] : undefined;
  }

  /** What lies under the pointer. */
  under({ offsetX: x, offsetY: y }) {
    const near = this.spots.filter((s) => Math.abs(s.x - x) < 7 && y >= s.y0 && y <= s.y1);
    return near.sort((a, b) => Math.abs(a.x - x) - Math.abs(b.x - x))[0];
  }

  happened(gathered) {
    const [, kind, point, phase, at] = gathered[0];
    const what = this.kinds[kind]?.label || kind;
    const said = { time: wall(at, false, true), point: this.names[point] || point, what };
    const first = phase === "begin" ? t("{time}  {point}: {what} begins", said) : t("{time}  {point}: {what}", said);
    return gathered.length === 1 ? first : t("{first} and {n} more within moments", { first, n: gathered.length - 1 });
  }
}

function responded(gathered) {
  const shown = gathered.slice(0, 3).map((r) => `${r[1]} → ${r[5].join(", ") || "…"}`);
  const first = `${wall(gathered[0][3], false, true)}  ${shown.join("   ·   ")}`;
  return gathered.length > 3 ? t("{first} and {n} more", { first, n: gathered.length - 3 }) : first;
}
