// Undo and redo: states of a document as text, the newest last.

const MOST = 200;

export class History {
  constructor(first) {
    this.past = [JSON.stringify(first)];
    this.future = [];
  }

  get canUndo() { return this.past.length > 1; }
  get canRedo() { return this.future.length > 0; }

  /** Keep a state; one that is the same as the last is none. */
  note(state) {
    const now = JSON.stringify(state);
    if (now === this.past[this.past.length - 1]) return;
    this.past.push(now);
    this.future = [];
    if (this.past.length > MOST) this.past.shift();
  }

  /** The state before, or null. */
  undo() {
    if (!this.canUndo) return null;
    this.future.push(this.past.pop());
    return JSON.parse(this.past[this.past.length - 1]);
  }

  redo() {
    if (!this.canRedo) return null;
    this.past.push(this.future.pop());
    return JSON.parse(this.past[this.past.length - 1]);
  }
}
