// Words for people: found in the page's language, with {names} filled in.

// The page brings a catalogue where another language than English is spoken.
const spoken = globalThis.django;
const found = (message) => (spoken ? spoken.gettext(message) : message);
const counted = (one, many, count) => (spoken ? spoken.ngettext(one, many, count) : count === 1 ? one : many);

/** "Saved as revision {n}." and {n: 3} are "Saved as revision 3." */
export const t = (message, values = {}) => fill(found(message), values);

/** One or several: the form that fits `count`, which is filled in as {count}. */
export const tn = (one, many, count, values = {}) => fill(counted(one, many, count), { count, ...values });

export const fill = (message, values) =>
  message.replace(/\{(\w+)\}/g, (whole, name) => (name in values ? String(values[name]) : whole));
