// One event stream for all tabs of a browser: HTTP/1.1 allows six connections to a host, and pages need them.
"use strict";

const sites = new Map(); // site -> { stream, ports }

onconnect = (connection) => {
  const port = connection.ports[0];
  port.onmessage = (message) => {
    if (message.data.listen) join(message.data.listen, message.data.url, port);
    if (message.data.leave) leave(message.data.leave, port);
  };
  port.start();
};

function join(site, url, port) {
  let known = sites.get(site);
  if (!known) {
    known = { stream: new EventSource(url), ports: new Set(), last: null };
    known.stream.onmessage = (m) => {
      const message = JSON.parse(m.data);
      if (message.topic === "pulse") known.last = message;
      for (const p of known.ports) p.postMessage({ site, message });
    };
    // The browser comes back by itself and says where it left off; a refusal (logged out) ends it.
    known.stream.onerror = () => { if (known.stream.readyState === 2) { sites.delete(site); } };
    sites.set(site, known);
  }
  known.ports.add(port);
  if (known.last) port.postMessage({ site, message: known.last });
}

function leave(site, port) {
  const known = sites.get(site);
  if (!known) return;
  known.ports.delete(port);
  if (!known.ports.size) { known.stream.close(); sites.delete(site); }
}
