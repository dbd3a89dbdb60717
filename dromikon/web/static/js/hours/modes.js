// The site's modes on the page of hours: set by hand, for good or until a time of the wall clock.
import { setMode } from "../kit/bar.js";
import { on } from "../kit/feed.js";

document.addEventListener("submit", async (event) => {
  const { modeForm } = event.target.dataset;
  if (!modeForm) return;
  event.preventDefault();
  await setMode(modeForm, event.target.elements.until.value);
});

// The page shows who uses what, and until when: made anew where it is told to have changed.
on("mode", () => location.reload());
