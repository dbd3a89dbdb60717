// Who passed: pictures are fetched as they come into sight.
import { Stills } from "../kit/stills.js";

const stills = new Stills();
const sight = new IntersectionObserver((entries) => {
  for (const { target } of entries.filter((e) => e.isIntersecting)) {
    stills.watch(target);
    sight.unobserve(target);
  }
}, { rootMargin: "200px" });

for (const passage of document.querySelectorAll(".passage")) sight.observe(passage);
