// Canvases: sharp on every screen, in the colours of the theme.

const NAMES = [
  "paper", "sheet", "raised", "lane", "ink", "quiet", "line", "line-strong",
  "own", "good", "wait", "wait-fill", "alert",
];

/** Colours of the theme; {line_strong: …}. */
export function theme() {
  const style = getComputedStyle(document.documentElement);
  return Object.fromEntries(NAMES.map((name) => [name.replace("-", "_"), resolved(style, name)]));
}

/** A token may be one colour by day and another by night; a canvas wants the one that counts. */
const probe = document.createElement("i");
function resolved(style, name) {
  if (!probe.isConnected) {
    probe.hidden = true;
    document.body.append(probe);
  }
  probe.style.color = `var(--${name})`;
  return getComputedStyle(probe).color || style.getPropertyValue(`--${name}`).trim();
}

/** A canvas sized to its box: {pen, width}. */
export function prepare(canvas, height) {
  const ratio = window.devicePixelRatio || 1;
  const width = canvas.clientWidth;
  canvas.width = Math.round(width * ratio);
  canvas.height = Math.round(height * ratio);
  const pen = canvas.getContext("2d");
  pen.setTransform(ratio, 0, 0, ratio, 0, 0);
  pen.clearRect(0, 0, width, height);
  pen.font = '12px "Atkinson", sans-serif';
  return { pen, width };
}

/** The axis' ticks: lines from `top` to `bottom`, words at `words` pixels. Nothing left of the axis. */
export function drawTicks(pen, axis, colours, { top, bottom, words, margin = 0 }) {
  const { step, found } = axis.ticks();
  Object.assign(pen, { textAlign: "center", fillStyle: colours.quiet, strokeStyle: colours.line, lineWidth: 1 });
  for (const at of found) {
    const x = Math.round(axis.x(at)) + 0.5;
    if (x < axis.left) continue;
    pen.beginPath();
    pen.moveTo(x, top);
    pen.lineTo(x, bottom);
    pen.stroke();
    if (x >= axis.left + margin && x <= axis.left + axis.width - margin) pen.fillText(axis.label(at, step), x, words);
  }
}

/** Dragging along a canvas: `moved(pixels)` while it goes on, `clicked(event)` when it was none. */
export function draggable(canvas, { begin, moved, clicked, hover = () => {} }) {
  let grabbed = null;
  canvas.addEventListener("pointerdown", (e) => {
    grabbed = { x: e.offsetX, from: begin(), moved: false };
    canvas.setPointerCapture(e.pointerId);
  });
  canvas.addEventListener("pointermove", (e) => {
    if (!grabbed) { hover(e); return; }
    if (Math.abs(e.offsetX - grabbed.x) > 3) grabbed.moved = true;
    if (grabbed.moved) moved(grabbed.from, e.offsetX - grabbed.x);
  });
  canvas.addEventListener("pointerup", (e) => {
    if (grabbed && !grabbed.moved) clicked(e);
    grabbed = null;
  });
}

/** The wheel over a canvas: `zoom(factor, x)`. */
export function wheeled(canvas, factor, zoom) {
  const turned = (e) => {
    e.preventDefault();
    zoom(e.deltaY > 0 ? factor : 1 / factor, e.offsetX);
  };
  canvas.addEventListener("wheel", turned, { passive: false });
}
