// A second press for what is dangerous: in place, without a dialog over it.

/** How long a button waits for its second press, in ms. */
const WAITS = 5_000;

/** Whether a button was pressed a second time; at the first one it says what it asks, for a while. */
export function sure(button, words) {
  if (!words || button.dataset.sure) { calm(button); return true; }
  const said = button.querySelector("span") || button;
  button.dataset.sure = said.textContent;
  said.textContent = words;
  button.classList.add("asks");
  button.setAttribute("aria-live", "assertive");
  setTimeout(() => calm(button), WAITS);
  return false;
}

function calm(button) {
  if (!button.dataset.sure) return;
  (button.querySelector("span") || button).textContent = button.dataset.sure;
  delete button.dataset.sure;
  button.classList.remove("asks");
}
