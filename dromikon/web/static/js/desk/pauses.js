// Rules paused at a camera, from the camera's sheet.
import { addressOf, call } from "../kit/ask.js";
import { openSheet } from "../kit/sheets.js";
import { upcoming } from "../kit/times.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

export async function pauseClicked({ target }, then) {
  const button = target.closest("[data-pause], [data-resume]");
  if (!button) return;
  const camera = button.closest("[data-pauses]").dataset.pauses, { pause, resume, minutes } = button.dataset;
  try {
    if (pause) {
      const content = { camera, minutes: Number(minutes) };
      const { until } = await call("pauseRule", { places: { rule: pause }, content });
      toast(t("Paused here until {time}.", { time: upcoming(Date.parse(until)) }));
    } else {
      await call("resumeRule", { places: { rule: resume }, content: { camera } });
      toast(t("It counts here again."));
    }
  } catch (error) { toast(error.message, { bad: true }); return; }
  // The engine takes it over within a moment.
  setTimeout(() => { openSheet(addressOf("cameraSheet", { camera }), `camera-${camera}`); then(); }, 400);
}
