// Packed frames: for each picture 1 byte camera, 8 bytes big-endian ms UTC, 4 bytes big-endian length, then JPEG.
// No document in here.

const HEAD = 13;

/** Frames out of chunks that end anywhere. */
export class Unpacker {
  constructor() { this.rest = new Uint8Array(0); }

  /** The frames that are whole with this chunk: [{camera, at, jpeg}]. */
  take(chunk) {
    const bytes = joined(this.rest, chunk);
    const view = new DataView(bytes.buffer);
    const found = [];
    let place = 0;
    while (bytes.length - place >= HEAD) {
      const size = view.getUint32(place + 9);
      const end = place + HEAD + size;
      if (bytes.length < end) break;
      const jpeg = bytes.slice(place + HEAD, end);
      found.push({ camera: view.getUint8(place), at: Number(view.getBigUint64(place + 1)), jpeg });
      place = end;
    }
    this.rest = bytes.slice(place);
    return found;
  }
}

function joined(first, second) {
  const whole = new Uint8Array(first.length + second.length);
  whole.set(first);
  whole.set(second, first.length);
  return whole;
}
