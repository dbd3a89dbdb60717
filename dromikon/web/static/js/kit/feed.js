// The event stream: what happened, to those on this page who want to hear of it.
import { addressOf } from "./ask.js";
import { page } from "./page.js";

const listeners = new Map();

/** Be told of messages of a topic: {topic, subject, data}. */
export function on(topic, listener) {
  listeners.set(topic, [...(listeners.get(topic) || []), listener]);
}

const hearers = [];

/** Be told that anything came at all. */
export const onAny = (hearer) => hearers.push(hearer);

function deliver(message) {
  for (const hearer of hearers) hearer();
  for (const listener of listeners.get(message.topic) || []) listener(message);
}

/** Begins where the page was made, so that nothing falls between its making and its listening. */
export function listen() {
  if (!page.site) return;
  if (window.SharedWorker) throughWorker(new SharedWorker(page.worker, { name: "dromikon-feed" }));
  else straight(page.told);
}

/** A browser without shared workers: a stream of this page's own, begun anew when it is refused. */
const AGAIN = 3_000;

function straight(after) {
  const stream = new EventSource(addressOf("feed", {}, { after }));
  let told = after;
  stream.onmessage = (m) => { told = Number(m.lastEventId) || told; deliver(JSON.parse(m.data)); };
  stream.onerror = () => { if (stream.readyState === EventSource.CLOSED) setTimeout(() => straight(told), AGAIN); };
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
