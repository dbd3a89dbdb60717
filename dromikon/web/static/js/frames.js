// Packed frames: for each picture 1 byte camera, 8 bytes big-endian ms UTC, 4 bytes big-endian length, then JPEG.
"use strict";

(() => {
  const HEAD = 13;

  /** Read packed frames from an address and hand each to `take(camera, at, blob)`. Ends when the stream does. */
  async function read(url, take, signal) {
    const answer = await fetch(url, { signal });
    if (!answer.ok) throw new Error(answer.status === 404 ? "There is no recording at that moment." : `The pictures cannot be fetched (${answer.status}).`);
    const reader = answer.body.getReader();
    let buffer = new Uint8Array(0);
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      const joined = new Uint8Array(buffer.length + value.length);
      joined.set(buffer);
      joined.set(value, buffer.length);
      buffer = joined;
      for (;;) {
        if (buffer.length < HEAD) break;
        const view = new DataView(buffer.buffer, buffer.byteOffset);
        const size = view.getUint32(9);
        if (buffer.length < HEAD + size) break;
        const blob = new Blob([buffer.slice(HEAD, HEAD + size)], { type: "image/jpeg" });
        await take(view.getUint8(0), Number(view.getBigUint64(1)), blob);
        buffer = buffer.slice(HEAD + size);
      }
    }
  }

  async function paint(canvas, blob) { await paintAll([canvas], blob); }

  /** Decode once, paint wherever it is wanted and on screen. */
  async function paintAll(canvases, blob) {
    const wanted = canvases.filter(onScreen);
    if (!wanted.length) return;
    const picture = await createImageBitmap(blob);
    for (const canvas of wanted) {
      if (canvas.width !== picture.width) { canvas.width = picture.width; canvas.height = picture.height; }
      canvas.getContext("2d").drawImage(picture, 0, 0);
    }
    picture.close();
  }

  function onScreen(canvas) {
    const box = canvas.getBoundingClientRect();
    return box.width > 0 && box.bottom > 0 && box.top < window.innerHeight;
  }

  /** Live pictures of several cameras over one connection, painted on canvases; paused while the page is hidden. */
  class Live {
    constructor(site, rate = 8, width = 480) {
      Object.assign(this, { site, rate, width, canvases: new Map(), stop: null });
      document.addEventListener("visibilitychange", () => this.restart());
      window.addEventListener("pagehide", () => this.stop?.abort());
    }
    /** Show exactly these cameras: a Map of camera -> list of canvases. */
    show(canvases) {
      const before = [...this.canvases.keys()].join();
      this.canvases = canvases;
      if ([...canvases.keys()].join() !== before || !this.stop) this.restart();
    }
    async restart() {
      this.stop?.abort();
      this.stop = null;
      if (document.hidden || !this.canvases.size) return;
      const stop = (this.stop = new AbortController());
      const cameras = [...this.canvases.keys()];
      const url = `/s/${this.site}/live?rate=${this.rate}&width=${this.width}&cameras=${cameras.map(encodeURIComponent).join(",")}`;
      try {
        await read(url, async (index, at, blob) => {
          await paintAll(this.canvases.get(cameras[index]) || [], blob).catch(() => {});
        }, stop.signal);
      } catch (error) {
        if (error.name === "AbortError") return;
      }
      if (this.stop === stop) setTimeout(() => this.stop === stop && this.restart(), 2000);
    }
  }

  window.dromikonFrames = { read, paint, Live };
})();
