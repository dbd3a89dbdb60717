// Many reasons to do one thing, close together: it is done at once, and once more for all that came meanwhile.

/**
 * Do `act` at the first call; calls in the `ms` after that are answered by one more at their end.
 * A stream that never pauses is answered every `ms`, so it neither starves nor floods.
 */
export function gathered(act, ms) {
  let resting = false, asked = false;
  const turn = () => {
    resting = asked;
    if (!asked) return;
    asked = false;
    act();
    setTimeout(turn, ms);
  };
  return () => {
    if (resting) { asked = true; return; }
    resting = true;
    act();
    setTimeout(turn, ms);
  };
}
