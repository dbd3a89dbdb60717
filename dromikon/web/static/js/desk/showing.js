// Notices that pass by themselves, and which canvases want live pictures.

const left = (until, now) => `${Math.ceil((until - now) / 1000)} s`;

export function showNotices(box, notices, now) {
  const ids = notices.map((n) => n.id).join(" ");
  if (box.dataset.shown !== ids) {
    box.dataset.shown = ids;
    box.replaceChildren(...notices.map(line));
  }
  notices.forEach((n, i) => { box.children[i].lastElementChild.textContent = left(n.until, now); });
}

function line(notice) {
  const box = document.createElement("div");
  box.className = "notice";
  const text = document.createElement("span");
  text.className = "grow";
  text.textContent = notice.text;
  const time = document.createElement("span");
  time.className = "figures";
  box.append(text, time);
  return box;
}

/** How far outside the window a picture is already live, in pixels. */
const NEAR = 150;

const inSight = (canvas) => {
  const { top, bottom } = canvas.getBoundingClientRect();
  return bottom > -NEAR && top < innerHeight + NEAR;
};

/** Canvases that want live pictures, by camera: those in sight. A site has more cameras than a screen. */
export function liveCanvases() {
  const found = new Map();
  for (const canvas of document.querySelectorAll("canvas[data-live]")) {
    if (!canvas.dataset.live || !inSight(canvas)) continue;
    found.set(canvas.dataset.live, [...(found.get(canvas.dataset.live) || []), canvas]);
  }
  return found;
}
