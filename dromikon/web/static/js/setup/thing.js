// A thing's sheet: its heading, the place of its form, and what can be done to it.
import { el } from "../form/dom.js";
import { t } from "../kit/words.js";

/** Draws around the form and answers with the place where the form goes. */
export function drawThing(holder, { known, isNew, single, verbs, acts }) {
  const place = el("div", { class: "thing-form" });
  const save = el("button", { class: "btn own", type: "button", on: { click: acts.save } }, t("Save"));
  const others = verbs
    .filter((v) => known.verbs?.includes(v.name))
    .map((v) => el("button", { class: "btn", type: "button", on: { click: () => acts.verb(v) } }, v.label));
  const away = !isNew && !single && known.retirable &&
    el("button", { class: "btn plain", type: "button", on: { click: acts.retire } }, t("Take away"));
  // Only Enter pressed in a field saves: the browser's own way would take the Enter that opened the sheet for one in
  // its first field, and lose one in a field that is drawn anew as it is left.
  const submit = (event) => event.preventDefault();
  const keydown = (event) => {
    if (event.key !== "Enter" || event.repeat || !event.target.matches("input")) return;
    event.preventDefault();
    acts.save();
  };
  const buttons = el("div", { class: "row wrap" }, save, others, el("span", { class: "grow" }), away);
  if (!single) holder.append(el("h2", {}, known.name));
  holder.append(el("form", { class: "stack", on: { submit, keydown } }, place, buttons));
  return place;
}

/** Shows what is not shown again, with a button to leave. */
export function showOnce(holder, text, leave) {
  const copied = () => navigator.clipboard?.writeText(text);
  const words = t("Copy it now: it is not shown again.");
  holder.append(
    el("div", { class: "panel shown", role: "status" },
      el("p", {}, words),
      el("p", {}, el("code", { class: "mono", tabindex: "0", "data-shown": true }, text)),
      el("div", { class: "row" },
        el("button", { class: "btn", type: "button", on: { click: copied } }, t("Copy")),
        el("button", { class: "btn own", type: "button", on: { click: leave } }, t("I have it")))),
  );
  holder.querySelector("[data-shown]").scrollIntoView({ block: "nearest" });
}
