// Speaking at a place: held like the key of a radio, recorded here, played there when it is let go.
import { call } from "../kit/ask.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";
import { awaitOutcome } from "./at-hand.js";

/** As telephones have it: 8,000 samples a second. Shorter than this, in ms, was a slip of the finger. */
const RATE = 8000, LEAST = 300;
let recording = null;

/** Buttons of a page are held by pointer, or by space and Enter. */
export function hearVoice(root) {
  root.addEventListener("pointerdown", (e) => begin(e.target.closest("[data-voice]")));
  for (const end of ["pointerup", "pointercancel"]) document.addEventListener(end, finish);
  root.addEventListener("keydown", (e) => {
    if (["Enter", " "].includes(e.key) && e.target.dataset?.voice && !e.repeat) { e.preventDefault(); begin(e.target); }
  });
  root.addEventListener("keyup", finish);
}

async function begin(button) {
  if (!button || recording) return;
  recording = { button, at: Date.now(), over: false };
  try {
    const stream = await navigator.mediaDevices.getUserMedia({ audio: true });
    const parts = [], recorder = new MediaRecorder(stream);
    recorder.ondataavailable = ({ data }) => parts.push(data);
    recorder.onstop = () => { for (const track of stream.getTracks()) track.stop(); send(button, new Blob(parts)); };
    recording.recorder = recorder;
    recorder.start();
    button.classList.add("own");
    if (recording.over) finish();
  } catch {
    recording = null;
    toast(t("The microphone cannot be used here. Write what is to be said instead."), { bad: true });
  }
}

function finish() {
  if (!recording) return;
  recording.over = true;
  const { recorder, button, at } = recording;
  if (!recorder) return;
  recording = null;
  button.classList.remove("own");
  setTimeout(() => recorder.stop(), Math.max(0, LEAST - (Date.now() - at)));
}

async function send(button, blob) {
  const { voice: point, label } = button.dataset;
  try {
    const { run } = await call("voice", { places: { point }, file: new Blob([await waveOf(blob)]) });
    awaitOutcome(run, label);
  } catch (error) { toast(error.message, { bad: true }); }
}

/** What was recorded, as a WAV file of one channel. */
async function waveOf(blob) {
  const heard = await new AudioContext().decodeAudioData(await blob.arrayBuffer());
  const room = new OfflineAudioContext(1, Math.max(1, Math.ceil(heard.duration * RATE)), RATE);
  const source = room.createBufferSource();
  source.buffer = heard;
  source.connect(room.destination);
  source.start();
  const samples = (await room.startRendering()).getChannelData(0);
  const wave = new DataView(new ArrayBuffer(44 + 2 * samples.length));
  const text = (at, words) => [...words].forEach((c, i) => wave.setUint8(at + i, c.charCodeAt(0)));
  text(0, "RIFF"); wave.setUint32(4, 36 + 2 * samples.length, true); text(8, "WAVEfmt ");
  // The format's length, PCM, one channel, samples and bytes a second, bytes and bits a sample.
  const head = [[16, 32, 16], [20, 16, 1], [22, 16, 1], [24, 32, RATE], [28, 32, 2 * RATE], [32, 16, 2], [34, 16, 16]];
  for (const [at, size, value] of head) wave[`setUint${size}`](at, value, true);
  text(36, "data"); wave.setUint32(40, 2 * samples.length, true);
  samples.forEach((s, i) => wave.setInt16(44 + 2 * i, Math.max(-1, Math.min(1, s)) * 32767, true));
  return wave.buffer;
}
