// What the server tells of a page: the site, its time zone, how far the page knew, and the documents it carries.

export const page = {
  get site() { return document.body.dataset.site || ""; },
  get zone() { return document.body.dataset.zone || "UTC"; },
  get told() { return Number(document.body.dataset.told || 0); },
  get worker() { return document.body.dataset.worker; },
  get icons() { return document.body.dataset.icons; },
};

/** A JSON document that the page carries, by its id. */
export const carried = (id) => JSON.parse(document.getElementById(id).textContent);

/** This page's address with a parameter set, or taken away with null. */
export function withParameter(name, value) {
  const url = new URL(location.href);
  if (value === null) url.searchParams.delete(name);
  else url.searchParams.set(name, value);
  return url;
}

export const parameter = (name) => new URL(location.href).searchParams.get(name) || "";

export const typing = (target) => Boolean(target.closest?.("input, textarea, select, [contenteditable]"));
