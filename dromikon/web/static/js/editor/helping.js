// What helps while a rule is made: values really seen in fields, and things of the site made without leaving.
import { ThingForm } from "../setup/thing-form.js";
import { drawThing } from "../setup/thing.js";
import { call } from "../kit/ask.js";
import { closeSheet, showSheet } from "../kit/sheets.js";
import { toast } from "../kit/toasts.js";
import { t } from "../kit/words.js";

/** Values lately seen, asked for once a kind. */
export function valuesSeen() {
  const asked = new Map();
  return (kind) => {
    if (!asked.has(kind)) asked.set(kind, call("seenValues", { query: { kind } }).catch(() => ({})));
    return asked.get(kind);
  };
}

/** A sheet in which one more thing of a sort is made; `made` hears of it as {id, name}. */
export async function makeThing(sort, catalogue, made) {
  const { form: forms, label } = await call("formOf", { places: { sort } });
  const drawer = showSheet(label), doc = {}, known = { name: label, verbs: [] };
  const save = async () => {
    try {
      const { id } = await call("addThing", { places: { sort }, content: { document: doc } });
      closeSheet();
      toast(t("“{name}” is there, and chosen here.", { name: doc.name }));
      made({ id, name: doc.name });
    } catch (error) {
      if (!form.mark(error.problems || [])) toast(error.message, { bad: true });
    }
  };
  const place = drawThing(drawer, { known, isNew: true, single: false, verbs: [], acts: { save } });
  const form = new ThingForm(place, { forms, catalogue, doc, changed: () => {}, takenOut: () => {} });
  form.begin(doc, true);
  drawer.querySelector("input")?.focus();
}
