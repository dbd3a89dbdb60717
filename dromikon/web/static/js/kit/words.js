// Words for people: found in the page's language, with {names} filled in.

/** "Saved as revision {n}." and {n: 3} are "Saved as revision 3." */
export const t = (message, values = {}) => fill(message, values);

/** One or several: the form that fits `count`, which is filled in as {count}. */
export const tn = (one, many, count, values = {}) => fill(count === 1 ? one : many, { count, ...values });

export const fill = (message, values) =>
  message.replace(/\{(\w+)\}/g, (whole, name) => (name in values ? String(values[name]) : whole));
