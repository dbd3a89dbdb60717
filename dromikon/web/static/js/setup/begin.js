// The first page: where the site lies follows from its time zone, until somebody says it better.
import { carried } from "../kit/page.js";

const form = document.querySelector("form.begin"), places = carried("places");
const fields = [form.latitude, form.longitude];
let typed = fields.some((f) => f.value);

function follow() {
  const place = places[form.zone.value];
  if (place && !typed) place.forEach((degrees, i) => { fields[i].value = degrees; });
}

if (!("chosen" in form.zone.dataset)) {
  const own = Intl.DateTimeFormat().resolvedOptions().timeZone;
  if ([...form.zone.options].some((o) => o.value === own)) form.zone.value = own;
}
follow();
form.zone.addEventListener("change", follow);
for (const field of fields) field.addEventListener("input", () => { typed = true; });
