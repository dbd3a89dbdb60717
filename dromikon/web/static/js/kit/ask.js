// Asking the server: the API's calls, and fragments of pages.
import { page } from "./page.js";
import { callAt, pageAt } from "./routes.js";
import { t } from "./words.js";

/** What a call was refused with: `problems` say where, `message` says it in one line. */
export class Refusal extends Error {
  constructor(status, answer) {
    super((answer.problems || []).map((p) => p.message).join(" ") || answer.error || t("That did not work."));
    this.status = status;
    this.problems = answer.problems || [];
  }
}

export const addressOf = (name, places, query) => pageAt(page.site, name, places, query);

/** Call the API and read its answer. `content` is sent as JSON, a file as it is. Throws Refusal. */
export async function call(name, { places, query, content, file } = {}) {
  const answer = await asked(name, { places, query, content, file });
  const data = await answer.json().catch(() => ({}));
  if (!answer.ok) throw new Refusal(answer.status, data);
  return data;
}

/** The bare answer of a call. */
export function asked(name, { places, query, content, file, accept = "application/json", signal } = {}) {
  const [method, url] = callAt(page.site, name, places, query);
  const headers = { Accept: accept, "X-CSRFToken": cookie("csrftoken") };
  if (file) headers["Content-Type"] = "application/octet-stream";
  else if (content !== undefined) headers["Content-Type"] = "application/json";
  const body = file || (content === undefined ? undefined : JSON.stringify(content));
  return fetch(url, { method, headers, signal, body });
}

/** A fragment of a page as elements; null when there is none. */
export async function fragment(name, places, query) {
  const answer = await fetch(addressOf(name, places, query));
  return answer.ok ? elements(await answer.text()) : null;
}

export function elements(html) {
  const holder = document.createElement("template");
  holder.innerHTML = html.trim();
  return holder.content;
}

function cookie(name) {
  const found = document.cookie.split("; ").find((c) => c.startsWith(`${name}=`));
  return found ? decodeURIComponent(found.slice(name.length + 1)) : "";
}
