// Cards of alarms: where they stand, and how one that changed takes the place of what was there.

/** The most urgent first: those to be answered, by rank, the newest first. */
export const order = ({ open, rank, raised }) => (open === "1" ? 0 : 1e16) + Number(rank) * 1e14 - Number(raised);

/** At most so many stand there: the last one gives way, unless somebody is busy with it. */
export function put(list, fresh, most = Infinity) {
  const before = [...list.children].find((c) => order(fresh.dataset) < order(c.dataset));
  list.insertBefore(fresh, before || null);
  const last = list.lastElementChild;
  if (list.children.length > most && last !== fresh && !last.contains(document.activeElement)) last.remove();
}

/** A card that changed while somebody answers it: everything but the form is new, so that words and focus stay. */
export function renew(now, fresh) {
  const mine = now.querySelector("form[data-answer]"), theirs = fresh.querySelector("form[data-answer]");
  if (!mine || !theirs) { now.replaceWith(fresh); return; }
  for (const { name, value } of fresh.attributes) if (name !== "class") now.setAttribute(name, value);
  const chosen = now.querySelector("[data-choose]")?.checked;
  now.querySelector("header").replaceWith(fresh.querySelector("header"));
  const box = now.querySelector("[data-choose]");
  if (box) box.checked = Boolean(chosen);
  for (const part of [".instruction", ".handling", ".happened"]) {
    const [before, after] = [now, fresh].map((card) => card.querySelector(part));
    const typing = before?.querySelector("form:focus-within, details[open]");
    if (before && after && !typing) before.replaceWith(after);
  }
  const strips = [...now.querySelectorAll(".strip")], anew = [...fresh.querySelectorAll(".strip")];
  strips.forEach((strip, i) => { if (anew[i]) strip.replaceWith(anew[i]); });
}

/** The next card by keyboard: `way` is 1 or -1. */
export function step(list, way) {
  const cards = [...list.children];
  const at = cards.findIndex((c) => c.classList.contains("current"));
  const next = cards[Math.max(0, Math.min(cards.length - 1, at + way))];
  if (!next) return;
  cards.forEach((c) => c.classList.toggle("current", c === next));
  next.focus({ preventScroll: true });
  next.scrollIntoView({ block: "nearest" });
}
