// One event stream for all tabs of a browser: HTTP/1.1 allows six connections to a host, and pages need them.
"use strict";

// How many messages are kept for tabs that join later; their pages were made a moment before.
const KEPT = 500;
const sites = new Map(); // site -> { stream, ports, first, recent, pulse }

onconnect = (connection) => {
  const port = connection.ports[0];
  port.onmessage = (message) => {
    if (message.data.listen) join(message.data.listen, message.data.url, message.data.after, port);
    if (message.data.leave) leave(message.data.leave, port);
  };
  port.start();
};

function join(site, url, after, port) {
  const known = sites.get(site) || open(site, url, after);
  known.ports.add(port);
  if (known.pulse) port.postMessage({ site, message: known.pulse });
  const reload = { topic: "reload", subject: "", data: {} };
  if (after < known.first) port.postMessage({ site, place: known.first, message: reload });
  else for (const told of known.recent) if (told.place > after) port.postMessage({ site, ...told });
}

/** A stream that begins behind `after`: what the first page knows already. */
function open(site, url, after) {
  const known = { stream: null, ports: new Set(), first: after, last: after, recent: [], pulse: null };
  sites.set(site, known);
  connect(site, url, known);
  return known;
}

// The browser comes back by itself and says where it left off. After a refusal (something between us and the server, or
// a log-out) it does not; then it is begun anew for as long as a page wants it.
const AGAIN = 5_000;

function connect(site, url, known) {
  known.stream = new EventSource(`${url}?after=${known.last}`);
  known.stream.onmessage = (m) => hear(site, known, Number(m.lastEventId || 0), JSON.parse(m.data));
  known.stream.onerror = () => {
    if (known.stream.readyState !== 2) return;
    setTimeout(() => { if (known.ports.size && sites.get(site) === known) connect(site, url, known); }, AGAIN);
  };
}

function hear(site, known, place, message) {
  known.last = Math.max(known.last, place);
  if (message.topic === "pulse") known.pulse = message;
  else {
    known.recent.push({ place, message });
    if (known.recent.length > KEPT) known.first = known.recent.shift().place;
  }
  for (const port of known.ports) port.postMessage({ site, place, message });
}

function leave(site, port) {
  const known = sites.get(site);
  if (!known) return;
  known.ports.delete(port);
  if (!known.ports.size) { known.stream.close(); sites.delete(site); }
}
