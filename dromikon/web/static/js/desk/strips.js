// Strips of evidence.

/** Where a strip is wider than its place, as on a telephone, it begins at the moment itself; once, so it stays put. */
export function atZero(root) {
  for (const strip of root.querySelectorAll(".strip:not([data-placed])")) {
    const zero = strip.querySelector(".zero");
    if (zero) strip.scrollLeft = zero.offsetLeft - strip.offsetLeft - 8;
    strip.dataset.placed = "1";
  }
}
