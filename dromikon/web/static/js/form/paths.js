// Places in a rule document, as dotted paths: "response.0.cameras.of". No document of the browser's is needed here.

export const copy = (value) => (value === undefined ? undefined : JSON.parse(JSON.stringify(value)));
export const stepsOf = (path) => (path === "" ? [] : path.split("."));
export const join = (path, name) => (path === "" ? String(name) : `${path}.${name}`);
export const parentOf = (path) => path.slice(0, Math.max(0, path.lastIndexOf(".")));

/** What stands at a path; a negative number counts from the end of a list. Undefined where nothing does. */
export function at(doc, path) {
  let found = doc;
  for (const step of stepsOf(path)) {
    if (found === undefined || found === null) return undefined;
    found = Array.isArray(found) && Number(step) < 0 ? found[found.length + Number(step)] : found[step];
  }
  return found;
}

/** Put a value at a path whose parent is there; undefined takes it out, and closes the gap in a list. */
export function put(doc, path, value) {
  const name = stepsOf(path).pop();
  const parent = at(doc, parentOf(path));
  if (value !== undefined) parent[name] = value;
  else if (Array.isArray(parent)) parent.splice(Number(name), 1);
  else delete parent[name];
}

/** Move an item of a list by so many places; false where there is none. */
export function move(list, from, by) {
  const to = from + by;
  if (to < 0 || to >= list.length) return false;
  list.splice(to, 0, ...list.splice(from, 1));
  return true;
}
