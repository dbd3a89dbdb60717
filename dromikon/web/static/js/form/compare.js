// How fields of an event are compared: which operators fit a field, and which value an operator begins with.

/** The catalogue's field that a condition names; "time" is when the event happened. */
export function comparedField(fields, name) {
  return fields.find((f) => f.name === name) || { name, label: name, type: "text", choices: [], unit: "" };
}

export const fitting = (operators, field) => operators.filter((o) => o.types.includes(field.type));

export function firstValue(operator, field) {
  const one = operator?.numeric ? 50 : field.choices[0] || "";
  if (operator?.name === "between") return [40, 60];
  return operator?.many ? [one] : one;
}

/** The value that is kept when the operator changes: as much of the old one as the new one can use. */
export function keptValue(operator, field, value) {
  const first = Array.isArray(value) ? value[0] : value;
  if (operator.numeric && typeof first !== "number") return firstValue(operator, field);
  if (operator.name === "between") return [first, first + 20];
  return operator.many ? [first] : first;
}

/** What somebody typed, as the operator wants it: numbers for numbers, else words. */
export function typedValue(operator, field, text) {
  const read = (one) => (operator?.numeric || field.type === "number" ? Number(one) : one);
  if (!operator?.many || operator.name === "between") return read(text);
  return text.split(",").map((word) => read(word.trim())).filter((v) => v !== "");
}
