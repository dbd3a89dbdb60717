// Part of a list's page: a table taken over, after its columns are chosen and what it would change has been seen.
import { call } from "../kit/ask.js";
import { t } from "../kit/words.js";

export const tables = () => ({
  table: null, preview: null, keepRest: false, columns: null,

  async chooseTable(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    Object.assign(this, { table: { __v_skip: true, file }, preview: null, keepRest: false, columns: null });
    await this.lookAtTable();
  },
  /** By what is chosen so far; an answer to what was chosen before says nothing any more. */
  async lookAtTable() {
    this.problems = [];
    const query = { columns: this.chosenColumns, keep: this.keepRest }, { file } = this.table;
    const asked = (this.askedTable = (this.askedTable || 0) + 1);
    try {
      const preview = await call("previewTable", { places: { list: this.id }, query, file });
      if (asked !== this.askedTable) return;
      Object.assign(this, { preview, columns: preview.columns });
      this.fillColumns();
    } catch (error) {
      if (asked !== this.askedTable) return;
      this.table = null;
      this.tell(error);
    }
  },
  get tableName() { return this.table ? this.table.file.name : ""; },
  get chosenColumns() { return this.columns ? JSON.stringify(this.columns) : ""; },
  chooseColumn(ours, event) {
    this.columns = { ...this.columns, [ours]: event.target.value };
    if (!event.target.value) delete this.columns[ours];
    return this.lookAtTable();
  },
  toggleKeep(event) {
    this.keepRest = event.target.checked;
    return this.lookAtTable();
  },
  /** The choices of a select are there only now; which is chosen is set after them. */
  fillColumns() {
    this.$nextTick(() => {
      for (const select of this.$root.querySelectorAll("select[data-ours]")) {
        select.value = this.preview.columns[select.dataset.ours] || "";
      }
    });
  },
  get canTake() { return Boolean(this.preview) && !this.preview.problems.length && Boolean(this.changes); },
  get changes() { return this.preview.added + this.preview.changed + this.preview.gone; },
  get tableWords() {
    if (!this.preview) return "";
    const { added, changed, gone, same } = this.preview;
    return t("{added} new, {changed} otherwise, {gone} go, {same} stay as they are", { added, changed, gone, same });
  },
  examplesOf(what) { return (this.preview?.examples[what] || []).join(", "); },
  has(what) { return Boolean(this.preview?.examples[what]?.length); },
  dropTable() { Object.assign(this, { table: null, preview: null, columns: null }); },
  async takeTable() {
    const query = { columns: this.chosenColumns, keep: this.keepRest }, { file } = this.table;
    this.drop();
    await this.told("replaceTable", { query, file }, t("Taken over from {file}.", { file: file.name }));
  },
});
