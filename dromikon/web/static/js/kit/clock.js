// What time it is: the server's, since the clock of a PC may be wrong.

/** How far the PC's clock may be off before somebody is told, in ms. */
const WRONG = 120_000;
let ahead = 0, known = false;

/** Now, in ms UTC, as the server has it. */
export const now = () => Date.now() + ahead;

/** The server has said what time it is. Small differences are the way it took. Answers with how wrong
 *  the PC is, in ms. */
export function noteServerTime(at) {
  const told = at - Date.now();
  if (!known || Math.abs(told - ahead) > 2_000) ahead = Math.abs(told) < 2_000 ? 0 : told;
  known = true;
  return Math.abs(ahead) > WRONG ? -ahead : 0;
}
