// How many are inside, at the head of the Desk.
import { on } from "../kit/feed.js";

/** Keeps the numbers true; where there is no room left that is seen. */
export function hearInside(root) {
  const chips = [...root.querySelectorAll("[data-inside]")];
  const show = (chip, value) => {
    chip.querySelector("[data-stands]").textContent = value;
    chip.classList.toggle("full", Number(value) >= Number(chip.dataset.room));
  };
  for (const chip of chips) show(chip, chip.querySelector("[data-stands]").textContent);
  on("counter", ({ subject, data }) => {
    const chip = chips.find((c) => c.dataset.inside === subject);
    if (chip) show(chip, data.value);
  });
}
