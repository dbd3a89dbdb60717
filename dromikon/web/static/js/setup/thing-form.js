// The form of a thing: the fields of its document, one under the other.
import { blankPart } from "../form/blank.js";
import { redraw } from "../form/dom.js";
import { Form } from "../form/form.js";
import { fieldsOfPart } from "../form/parts.js";

export class ThingForm extends Form {
  /** Begin with a document; a new one has what its fields begin with. */
  begin(doc, isNew) {
    if (isNew) Object.assign(doc, blankPart(this.scope(""), this.forms.root));
    this.show(doc);
  }

  redraw() {
    this.drawn = this.shape();
    redraw(this.root, fieldsOfPart(this, this.forms.root, "", this.doc));
    this.mark(this.problems);
  }

  /** Whether there was a place for any of the problems; the first of them is gone to. */
  mark(problems) {
    super.mark(problems);
    const place = [...this.root.querySelectorAll("[data-problem-at]")].find((p) => p.textContent);
    if (problems.length) place?.closest(".field")?.querySelector("input, select, textarea, button")?.focus();
    return Boolean(place);
  }
}
