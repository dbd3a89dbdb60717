// What is done to devices, wherever their form or an offer of theirs stands.
import { addressOf, call } from "../kit/ask.js";
import { markProblems } from "../kit/component.js";
import { toast, toastLater } from "../kit/toasts.js";
import { t } from "../kit/words.js";

/** From now on forms of devices are saved, and buttons at offers and devices do what they say. */
export function hearOfDevices() {
  document.addEventListener("submit", (e) => { if (e.target.matches("[data-device-form]")) save(e); });
  document.addEventListener("click", ({ target }) => {
    if (target.dataset?.adopt) adopt(target);
    if (target.dataset?.retire) retire(target);
    if (target.dataset?.ask) ask(target);
    if (target.dataset?.note) note(target);
    if (target.dataset?.decline) decline(target);
  });
}

async function save(event) {
  event.preventDefault();
  const form = event.target, { device } = form.dataset, button = form.querySelector("button.own");
  const fields = Object.fromEntries(new FormData(form));
  const content = { ...fields, area: fields.area || null, enabled: form.enabled.checked };
  markProblems(form, []);
  // A new device is asked who it is; that may take some seconds.
  button.disabled = true;
  try {
    const given = device ? { places: { device }, content } : { content };
    const made = await call(device ? "changeDevice" : "makeDevice", given);
    toastLater(t("Saved. Its session starts within a second."));
    location.href = addressOf("device", { device: made.id });
  } catch (error) {
    offerTrust(form, error.problems || []);
    if (!markProblems(form, error.problems || [])) toast(error.message, { bad: true });
  } finally { button.disabled = false; }
}

/** A certificate that is to be compared can be trusted: its fingerprint stands in what was said. */
function offerTrust(form, problems) {
  const said = problems.find((p) => p.path === "trust")?.message.match(/[0-9A-F]{2}(:[0-9A-F]{2}){31}/);
  const place = form.querySelector("[data-trust]");
  place.hidden = !problems.some((p) => p.path === "trust");
  form.trust.checked = false;
  form.trust.value = said ? said[0] : "";
}

async function retire(button) {
  const { device, retire: name } = button.dataset;
  if (!confirm(t("Take {name} and its points away? What happened keeps its name.", { name }))) return;
  try {
    await call("retireDevice", { places: { device } });
    toastLater(t("{name} is taken away.", { name }));
    location.href = addressOf("sources");
  } catch (error) { toast(error.message, { bad: true }); }
}

async function ask(button) {
  button.disabled = true;
  try {
    await call("askDevice", { places: { device: button.dataset.ask } });
    toast(t("It is being asked; this page shows what it says."));
  } catch (error) { toast(error.message, { bad: true }); }
}

async function note(button) {
  try {
    await call("noteChanges", { places: { device: button.dataset.note } });
    button.closest("section").remove();
    toast(t("Noted."));
  } catch (error) { toast(error.message, { bad: true }); }
}

async function adopt(button) {
  const { device, adopt: token } = button.dataset;
  const name = button.closest("tr").querySelector("[data-offer]")?.value || "";
  try {
    const point = await call("adopt", { places: { device }, content: { token, name } });
    const unseen = t("It is a point now, but no recorder records it: no pictures from before.");
    toastLater(point.recorded === false ? unseen : t("It is a point now; rules can name it."));
    location.reload();
  } catch (error) { toast(error.message, { bad: true }); }
}

/** A proposed rule is turned down, or offered again. */
async function decline({ dataset: { decline: starting, device, again } }) {
  try {
    await call("declineRule", { places: { device, starting }, content: { declined: !again } });
    location.reload();
  } catch (error) { toast(error.message, { bad: true }); }
}
