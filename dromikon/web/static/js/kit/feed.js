// The event stream: what happened, to those on this page who want to hear of it.
import { addressOf } from "./ask.js";
import { page } from "./page.js";

const listeners = new Map();

/** Be told of messages of a topic: {topic, subject, data}. */
export function on(topic, listener) {
  listeners.set(topic, [...(listeners.get(topic) || []), listener]);
}

function deliver(message) {
  for (const listener of listeners.get(message.topic) || []) listener(message);
}

/** Begins where the page was made, so that nothing falls between its making and its listening. */
export function listen() {
  if (!page.site) return;
  if (window.SharedWorker) throughWorker(new SharedWorker(page.worker, { name: "dromikon-feed" }));
  else {
    const stream = new EventSource(addressOf("feed", {}, { after: page.told }));
    stream.onmessage = (m) => deliver(JSON.parse(m.data));
  }
}

function throughWorker({ port }) {
  let told = page.told;
  port.onmessage = ({ data }) => {
    if (data.site !== page.site) return;
    told = Math.max(told, data.place || 0);
    deliver(data.message);
  };
  port.start();
  const join = () => port.postMessage({ listen: page.site, url: addressOf("feed"), after: told });
  join();
  window.addEventListener("pagehide", () => port.postMessage({ leave: page.site }));
  window.addEventListener("pageshow", (e) => { if (e.persisted) join(); });
}
