// What an event has seen, put on a list from wherever the event is shown.
import { call } from "./ask.js";
import { toast } from "./toasts.js";
import { t } from "./words.js";

/** A form that names an event and a list. */
export async function listed(event) {
  const form = event.target, { sighting, list } = form.dataset;
  if (!sighting) return;
  event.preventDefault();
  const content = { event: Number(sighting), value: form.elements.value?.value || "" };
  try {
    const entry = await call("addSighting", { places: { list }, content });
    form.replaceChildren(t("“{value}” is on the list.", { value: entry.value }));
  } catch (error) { toast(error.message, { bad: true }); }
}
