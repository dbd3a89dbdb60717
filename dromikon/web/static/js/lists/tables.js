// Part of a list's page: a table taken over, after its columns are chosen and what it would change has been seen.
import { call } from "../kit/ask.js";
import { t } from "../kit/words.js";

export const tables = () => ({
  table: null, preview: null, keepRest: false,

  async chooseTable(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    Object.assign(this, { table: { __v_skip: true, file }, preview: null, keepRest: false });
    await this.lookAtTable("");
  },
  async lookAtTable(columns) {
    this.problems = [];
    const query = { columns, keep: this.keepRest };
    try {
      this.preview = await call("previewTable", { places: { list: this.id }, query, file: this.table.file });
      this.fillColumns();
    } catch (error) {
      this.table = null;
      this.tell(error);
    }
  },
  get tableName() { return this.table ? this.table.file.name : ""; },
  get chosenColumns() { return JSON.stringify(this.preview.columns); },
  chooseColumn(ours, event) {
    const columns = { ...this.preview.columns, [ours]: event.target.value };
    if (!event.target.value) delete columns[ours];
    return this.lookAtTable(JSON.stringify(columns));
  },
  toggleKeep(event) {
    this.keepRest = event.target.checked;
    return this.lookAtTable(this.chosenColumns);
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
  dropTable() { Object.assign(this, { table: null, preview: null }); },
  async takeTable() {
    const query = { columns: this.chosenColumns, keep: this.keepRest }, { file } = this.table;
    this.drop();
    await this.told("replaceTable", { query, file }, t("Taken over from {file}.", { file: file.name }));
  },
});
