// A clip is read as it is encoded: one sees it grow, and hears what went wrong instead of getting an empty file.
import { Refusal, addressOf } from "../kit/ask.js";
import { t } from "../kit/words.js";

const KEPT = 60e3;

/** Reads a clip and hands it to the browser to keep. `grown` is told the bytes so far. Throws with words for people. */
export async function keepClip(camera, { start, end }, grown) {
  const answer = await fetch(addressOf("clip", { camera }, { start, end }));
  if (!answer.ok) throw new Refusal(answer.status, await answer.json().catch(() => ({})));
  const name = /filename="([^"]+)"/.exec(answer.headers.get("content-disposition") || "")?.[1] || "clip.webm";
  hand(await whole(answer.body.getReader(), grown), name);
}

async function whole(reader, grown) {
  const parts = [];
  let bytes = 0;
  try {
    for (;;) {
      const { value, done } = await reader.read();
      if (done) return new Blob(parts, { type: "video/webm" });
      parts.push(value);
      bytes += value.length;
      grown(bytes);
    }
  } catch (error) {
    throw new Error(t("The recorder broke off; nothing was kept. Try again."), { cause: error });
  }
}

function hand(blob, name) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), KEPT);
}
