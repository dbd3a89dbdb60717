// Alpine components in modules: registered when Alpine begins, and put together from parts.

/** Register a component by its name in x-data. */
export const component = (name, make) => document.addEventListener("alpine:init", () => Alpine.data(name, make));

// What several screens have: an input that narrows what is shown, told to the component's `filter`.
document.addEventListener("alpine:init", () => {
  Alpine.bind("filtering", () => ({ "@input"(event) { this.filter(event); } }));
});

/** One object of several. Getters stay getters: an object that is spread would keep their first value. */
export function joined(...parts) {
  return Object.defineProperties({}, Object.assign({}, ...parts.map(Object.getOwnPropertyDescriptors)));
}

/** Shows each problem at its field and goes to the first; false when there is nowhere to show it. */
export function markProblems(form, problems) {
  for (const place of form.querySelectorAll("[data-problem]")) place.textContent = "";
  let placed = problems.length > 0;
  for (const problem of problems) {
    const place = form.querySelector(`[data-problem="${CSS.escape(problem.path)}"]`);
    if (place) place.textContent = problem.message;
    else placed = false;
  }
  form.elements.namedItem(problems[0]?.path || "")?.focus?.();
  return placed;
}
