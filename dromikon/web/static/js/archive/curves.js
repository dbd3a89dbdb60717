// What sensors read that the cameras look at, as curves below the axis: each from its least to its most, with its value
// at the moment that is shown.

/** How tall a curve is, and how much of that is left free above and below. */
export const TALL = 36;
const FREE = 5;
/** Who is silent for so many times as long as usually between two readings has a broken curve. */
const SILENT = 3;

export function drawCurves({ pen, axis, colours, width }, curves, top, at) {
  curves.forEach((curve, row) => {
    const y = top + row * TALL;
    Object.assign(pen, { fillStyle: colours.lane, strokeStyle: colours.own, lineWidth: 1.5 });
    pen.fillRect(0, y + 1, width, TALL - 2);
    line(pen, axis, curve.readings, y);
    Object.assign(pen, { textAlign: "left", fillStyle: colours.ink, font: '600 11px "Atkinson", sans-serif' });
    pen.fillText(`${curve.name}  ${shown(valueAt(curve.readings, at), curve.unit)}`, 4, y + 12);
  });
}

function line(pen, axis, readings, y) {
  const values = readings.map(([, value]) => value), least = Math.min(...values);
  const span = Math.max(...values) - least || 1, silent = usually(readings) * SILENT;
  let before = null;
  pen.beginPath();
  for (const [moment, value] of readings) {
    const x = axis.x(moment), place = y + TALL - FREE - ((value - least) / span) * (TALL - 2 * FREE);
    if (before === null || moment - before > silent) pen.moveTo(x, place);
    else pen.lineTo(x, place);
    before = moment;
  }
  pen.stroke();
}

/** The median of the pauses between readings, in ms. */
export function usually(readings) {
  const pauses = readings.slice(1).map(([at], i) => at - readings[i][0]).sort((a, b) => a - b);
  return pauses[Math.floor(pauses.length / 2)] || 0;
}

/** The last reading before a moment. */
function valueAt(readings, at) {
  let found = null;
  for (const [moment, value] of readings) if (moment <= at) found = value;
  return found;
}

const shown = (value, unit) => (value === null ? "" : `${Number(value.toPrecision(4))} ${unit}`.trim());
