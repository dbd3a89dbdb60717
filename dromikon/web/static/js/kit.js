// The kit's behaviour: feed, relative times, toasts with undo, sheets, theme, keys. One global, `dromikon`.
"use strict";

(() => {
  const site = () => document.body.dataset.site;

  // -- requests -----------------------------------------------------------------------------------------------------
  function cookie(name) {
    const found = document.cookie.split("; ").find((c) => c.startsWith(name + "="));
    return found ? decodeURIComponent(found.slice(name.length + 1)) : "";
  }

  /** Send JSON and read JSON. Throws {status, problems, message}. */
  async function send(method, url, content) {
    const answer = await fetch(url, {
      method,
      headers: { "Content-Type": "application/json", "X-CSRFToken": cookie("csrftoken"), Accept: "application/json" },
      body: content === undefined ? undefined : JSON.stringify(content),
    });
    const data = await answer.json().catch(() => ({}));
    if (!answer.ok) throw { status: answer.status, problems: data.problems || [], message: data.error || "That did not work." };
    return data;
  }

  // -- feed ---------------------------------------------------------------------------------------------------------
  const listeners = new Map();
  function on(topic, listener) {
    if (!listeners.has(topic)) listeners.set(topic, []);
    listeners.get(topic).push(listener);
  }
  function deliver(message) {
    for (const topic of [message.topic, "*"]) for (const listener of listeners.get(topic) || []) listener(message);
  }
  /** Begins where the page was made, so that nothing falls between its making and its listening. */
  function listen() {
    if (!site()) return;
    const url = `/s/${site()}/feed`;
    let told = Number(document.body.dataset.told || 0);
    if (window.SharedWorker) {
      const worker = new SharedWorker(document.body.dataset.worker, { name: "dromikon-feed" });
      worker.port.onmessage = (m) => {
        if (m.data.site !== site()) return;
        told = Math.max(told, m.data.place || 0);
        deliver(m.data.message);
      };
      worker.port.start();
      const join = () => worker.port.postMessage({ listen: site(), url, after: told });
      join();
      window.addEventListener("pagehide", () => worker.port.postMessage({ leave: site() }));
      window.addEventListener("pageshow", (e) => { if (e.persisted) join(); });
    } else {
      const stream = new EventSource(`${url}?after=${told}`);
      stream.onmessage = (m) => deliver(JSON.parse(m.data));
    }
  }

  // -- times --------------------------------------------------------------------------------------------------------
  const clock = new Map();
  function wall(at, withDate, withSeconds) {
    const zone = document.body.dataset.zone || "UTC";
    const key = `${zone}${withDate}${withSeconds}`;
    if (!clock.has(key)) {
      const options = { timeZone: zone, hour: "2-digit", minute: "2-digit", hourCycle: "h23" };
      if (withSeconds) options.second = "2-digit";
      if (withDate) Object.assign(options, { day: "2-digit", month: "short" });
      clock.set(key, new Intl.DateTimeFormat("en-GB", options));
    }
    return clock.get(key).format(at);
  }
  function relative(at) {
    const s = (Date.now() - at) / 1000;
    if (s < 0) return wall(at, false, true);
    if (s < 5) return "now";
    if (s < 60) return `${Math.floor(s)} s ago`;
    if (s < 3600) return `${Math.floor(s / 60)} min ago`;
    if (s < 6 * 3600) return `${Math.floor(s / 3600)} h ${Math.floor((s % 3600) / 60)} min ago`;
    const [today, then] = [wall(Date.now(), true, false), wall(at, true, false)].map((w) => w.split(",")[0]);
    return wall(at, s > 86400 || today !== then, false);
  }
  function refreshTimes(root = document) {
    for (const t of root.querySelectorAll("time[data-style=relative]")) t.textContent = relative(Number(t.dataset.at));
  }

  // -- toasts -------------------------------------------------------------------------------------------------------
  function toast(text, { bad = false, undo = null, seconds = 6 } = {}) {
    const box = document.createElement("div");
    box.className = "toast arrive" + (bad ? " bad" : "");
    box.append(document.createTextNode(text));
    if (undo) {
      const button = document.createElement("button");
      button.type = "button";
      button.textContent = "Undo";
      button.addEventListener("click", () => { box.remove(); undo(); });
      box.append(button);
    }
    document.querySelector("[data-toasts]").append(box);
    setTimeout(() => box.remove(), seconds * 1000);
  }
  /** A toast that survives the next page. */
  function toastLater(text) { sessionStorage.setItem("toast", text); }

  // -- sheets: details from the right, linkable by ?open=, closed with Esc ---------------------------------------------
  let opener = null;
  async function openSheet(url, key) {
    opener = document.activeElement;
    const answer = await fetch(url, { headers: { "X-Fragment": "1" } });
    closeSheet(false);
    const drawer = document.createElement("aside");
    drawer.className = "drawer arrive";
    drawer.setAttribute("role", "dialog");
    drawer.setAttribute("aria-label", "Details");
    drawer.tabIndex = -1;
    drawer.innerHTML = answer.ok ? await answer.text() : `<p class="problem">This cannot be shown (${answer.status}).</p>`;
    const close = document.createElement("button");
    close.className = "btn small icon-only plain close";
    close.type = "button";
    close.setAttribute("aria-label", "Close");
    close.textContent = "✕";
    close.addEventListener("click", () => closeSheet());
    drawer.prepend(close);
    document.body.append(drawer);
    refreshTimes(drawer);
    drawer.focus();
    if (key) history.replaceState(null, "", withParameter("open", key));
    return drawer;
  }
  function closeSheet(restore = true) {
    const drawer = document.querySelector(".drawer");
    if (!drawer) return false;
    drawer.remove();
    if (restore) {
      history.replaceState(null, "", withParameter("open", null));
      if (opener && opener.isConnected) opener.focus();
    }
    return true;
  }
  function withParameter(name, value) {
    const url = new URL(location.href);
    if (value === null) url.searchParams.delete(name); else url.searchParams.set(name, value);
    return url;
  }

  // -- theme, keys ----------------------------------------------------------------------------------------------------
  function setTheme(name) {
    document.documentElement.dataset.theme = name;
    document.cookie = `theme=${name}; path=/; max-age=31536000; samesite=lax`;
    document.dispatchEvent(new CustomEvent("theme"));
  }
  const typing = (target) => target.closest && target.closest("input, textarea, select, [contenteditable]");
  const goto = { d: "desk", b: "daybook", r: "rulebook", s: "sources", a: "archive", l: "lists", h: "hours" };
  let pendingGo = false;
  function keys(event) {
    if (event.key === "Escape") {
      const menu = document.querySelector("details[data-menu][open]");
      const lightbox = document.querySelector(".lightbox");
      if (lightbox) lightbox.remove();
      else if (menu) menu.open = false;
      else if (!closeSheet() && typing(event.target)) event.target.blur();
      return;
    }
    if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "/") { event.preventDefault(); document.querySelector("[data-search]")?.focus(); }
    else if (event.key === "?") document.querySelector("[data-keys]").showModal();
    else if (pendingGo && goto[event.key] && site()) location.href = `/s/${site()}/${goto[event.key]}`;
    pendingGo = event.key === "g";
  }

  // -- pictures -------------------------------------------------------------------------------------------------------
  function enlarge(source, text) {
    const box = document.createElement("div");
    box.className = "lightbox";
    const inner = document.createElement("div");
    const picture = document.createElement("img");
    picture.src = source;
    picture.alt = text;
    const caption = document.createElement("p");
    caption.textContent = text;
    inner.append(picture, caption);
    box.append(inner);
    box.addEventListener("click", () => box.remove());
    document.body.append(box);
  }

  function pulse(state) {
    const box = document.querySelector("[data-pulse]");
    if (!box) return;
    box.classList.toggle("alive", state.alive);
    box.classList.toggle("dead", !state.alive);
    const delay = state.delay_ms < 1000 ? `${state.delay_ms} ms` : `${Math.round(state.delay_ms / 1000)} s`;
    const expired = document.querySelector("[data-expired]");
    expired.hidden = !state.expired;
    expired.textContent = `${state.expired} unsent`;
    box.querySelector("span").textContent = state.alive ? `${state.per_minute}/min · ${delay}` : "engine stopped";
  }
  function countAlarms(count) {
    const badge = document.querySelector("[data-alarm-count]");
    if (!badge) return;
    badge.hidden = !count;
    badge.textContent = count;
  }

  async function setMode(mode) {
    const before = document.querySelector("[data-mode]").textContent;
    try {
      await send("POST", `/s/${site()}/mode`, { mode });
      toast(`The site is in mode “${mode}”.`, { undo: before === mode ? null : () => setMode(before) });
    } catch (error) {
      toast((error.problems || []).map((p) => p.message).join(" ") || error.message, { bad: true });
    }
  }

  window.dromikon = { send, on, toast, toastLater, openSheet, closeSheet, relative, refreshTimes, wall, setTheme, typing, enlarge, site, withParameter };

  document.addEventListener("DOMContentLoaded", () => {
    listen();
    refreshTimes();
    setInterval(refreshTimes, 1000);
    document.addEventListener("keydown", keys);
    on("mode", (m) => { const shown = document.querySelector("[data-mode]"); if (shown) shown.textContent = m.data.value; });
    on("pulse", (m) => { pulse(m.data); countAlarms(m.data.waiting); });
    document.addEventListener("click", (event) => {
      const target = event.target.closest("[data-theme-set], [data-keys-open], [data-keys-close], [data-sheet], [data-enlarge], [data-mode-set]");
      for (const menu of document.querySelectorAll("details[data-menu][open]")) if (!menu.contains(event.target)) menu.open = false;
      if (!target) return;
      if (target.dataset.themeSet) setTheme(target.dataset.themeSet);
      if (target.dataset.modeSet) setMode(target.dataset.modeSet);
      if ("keysOpen" in target.dataset) document.querySelector("[data-keys]").showModal();
      if ("keysClose" in target.dataset) document.querySelector("[data-keys]").close();
      if (target.dataset.sheet) { event.preventDefault(); openSheet(target.dataset.sheet, target.dataset.sheetKey); }
      if (target.dataset.enlarge) enlarge(target.dataset.enlarge, target.dataset.caption || "");
    });
    const later = sessionStorage.getItem("toast");
    if (later) { sessionStorage.removeItem("toast"); toast(later); }
  });
})();
