// The whole Desk by keyboard.
import { step } from "./cards.js";

const list = () => document.querySelector("[data-alarms]");
const current = () => document.querySelector(".alarm:focus-within") || list().querySelector(".alarm.current");
const within = (selector) => current()?.querySelector(selector);

/** Says what it was, where an answer is asked for. */
function was(outcome) {
  const box = within(`form[data-answer] input[value="${outcome}"]`);
  if (box) box.checked = true;
}

/** What each act of the page's table of keys does. */
export function byKey(desk) {
  return {
    next: () => step(list(), 1),
    previous: () => step(list(), -1),
    sound: () => desk.toggleSound(),
    note: () => within("textarea")?.focus(),
    acknowledge: () => within("form[data-answer]")?.requestSubmit(),
    take: () => within("[data-handle]:not([hidden])")?.click(),
    shelve: () => {
      const shelving = within("details.shelving");
      if (!shelving) return;
      shelving.open = true;
      shelving.querySelector("input").focus();
    },
    unfold: () => within("[data-unfold]")?.click(),
    choose: () => within("[data-choose]")?.click(),
    answerCall: () => desk.ringing.length && desk.answerCall(desk.ringing[0]),
    endCall: () => desk.calls.length && desk.endCall(desk.calls[0]),
    buttons: () => document.querySelector(".button-row button, .cell button")?.focus(),
    arrange: () => desk.arrange(),
    switching: () => desk.switchOver(),
    real: () => was("real"),
    false: () => was("false"),
    test: () => was("test"),
    own: () => was("own"),
  };
}
