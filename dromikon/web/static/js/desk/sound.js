// Sounds of alarms: our own tones, made here, and those that the site has loaded.
import { addressOf } from "../kit/ask.js";

/** [frequency, start, length] in Hz and s. */
const TONES = {
  chime: [[660, 0, 0.18], [880, 0.2, 0.3]],
  call: [[740, 0, 0.16], [740, 0.24, 0.16], [990, 0.48, 0.34]],
  urgent: [[880, 0, 0.12], [587, 0.14, 0.12], [880, 0.28, 0.12], [587, 0.42, 0.12], [880, 0.56, 0.3]],
};
const LOUDEST = 0.22;
let audio = null;

/** Browsers let a page sound only after somebody has touched it. */
export const maySound = () => Boolean(navigator.userActivation?.hasBeenActive);

export function play(name) {
  if (!name || name === "none" || !maySound()) return;
  audio = audio || new AudioContext();
  audio.resume();
  if (TONES[name]) for (const tone of TONES[name]) sound(...tone);
  else ofTheSite(name);
}

/** How an alarm sounds to somebody: what they chose for its priority, else the site's own sound, else its rule's. One
 *  that is silent stays silent. */
export function soundOf({ sound, ownSound, priority }, chosen) {
  if (sound === "none" && !ownSound) return "none";
  return chosen[priority] || ownSound || sound;
}

/** One of the site's own, kept once it was fetched. */
const fetched = new Map();
async function ofTheSite(id) {
  if (!fetched.has(id)) fetched.set(id, fetch(addressOf("sound", { sound: id })).then((a) => a.arrayBuffer()));
  try {
    const source = audio.createBufferSource(), volume = audio.createGain();
    source.buffer = await audio.decodeAudioData((await fetched.get(id)).slice(0));
    volume.gain.value = 2 * LOUDEST;
    source.connect(volume).connect(audio.destination);
    source.start();
  } catch { fetched.delete(id); }
}

/** A notice that came: its sound, and its words read out where the browser has a voice. */
export function hear({ sound: name, spoken, text }) {
  play(name);
  if (!spoken || !maySound() || !window.speechSynthesis) return;
  const words = new SpeechSynthesisUtterance(text);
  words.lang = document.documentElement.lang;
  window.speechSynthesis.speak(words);
}

function sound(frequency, start, length) {
  const tone = audio.createOscillator(), volume = audio.createGain();
  const at = audio.currentTime + start;
  tone.type = "triangle";
  tone.frequency.value = frequency;
  volume.gain.setValueAtTime(0, at);
  volume.gain.linearRampToValueAtTime(LOUDEST, at + 0.015);
  volume.gain.exponentialRampToValueAtTime(0.001, at + length);
  tone.connect(volume).connect(audio.destination);
  tone.start(at);
  tone.stop(at + length + 0.02);
}
