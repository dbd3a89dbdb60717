// The bar over every page: the engine's pulse, alarms that wait, the site's mode, the theme.
import { call } from "./ask.js";
import { on } from "./feed.js";
import { upcoming } from "./times.js";
import { toast } from "./toasts.js";
import { t } from "./words.js";

const shown = (name) => document.querySelector(`[data-${name}]`);

export function keepBar() {
  on("mode", ({ data }) => showMode(data));
  on("pulse", ({ data }) => {
    pulse(data);
    badge("alarm-count", data.waiting, data.waiting);
    badge("expired", data.expired, t("{count} unsent", { count: data.expired }));
  });
}

function pulse(state) {
  const box = shown("pulse");
  if (!box) return;
  box.classList.toggle("alive", state.alive);
  box.classList.toggle("dead", !state.alive);
  const delay = state.delay_ms < 1000 ? `${state.delay_ms} ms` : `${Math.round(state.delay_ms / 1000)} s`;
  const rate = t("{count}/min", { count: state.per_minute });
  box.querySelector("span").textContent = state.alive ? `${rate} · ${delay}` : t("engine stopped");
}

function badge(name, count, words) {
  const place = shown(name);
  if (!place) return;
  place.hidden = !count;
  place.textContent = words;
}

function showMode({ value, until }) {
  const mode = shown("mode");
  if (!mode) return;
  mode.textContent = value;
  shown("mode-end").textContent = until ? t("until {time}", { time: upcoming(until) }) : "";
}

/** The site goes to a mode; `until` a time of its wall clock such as 18:30, or nothing. */
export async function setMode(mode, until = shown("mode-until")?.value || "") {
  const before = shown("mode").textContent;
  try {
    await call("mode", { content: { mode, until } });
    const undo = before === mode ? null : () => setMode(before, "");
    const words = until ? t("The site is in mode “{mode}” until {until}.", { mode, until })
      : t("The site is in mode “{mode}”.", { mode });
    toast(words, { undo });
  } catch (error) { toast(error.message, { bad: true }); }
}

export function setTheme(name) {
  document.documentElement.dataset.theme = name;
  document.cookie = `theme=${name}; path=/; max-age=31536000; samesite=lax`;
  document.dispatchEvent(new CustomEvent("theme"));
}
