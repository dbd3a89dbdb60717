// The rule as one sentence; each phrase leads to the part that it describes.

export function drawSentence(place, phrases) {
  place.replaceChildren(...phrases.map(phrase));
}

function phrase({ text, part, name }) {
  const words = document.createElement(name ? "b" : "span");
  words.textContent = text;
  if (!part) return words;
  const link = document.createElement("a");
  link.href = `#part-${part.replace(".", "-")}`;
  link.dataset.part = part;
  link.append(name ? words : text);
  return link;
}
