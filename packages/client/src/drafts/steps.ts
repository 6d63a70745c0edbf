/** Steps that can be taken back at most. */
const mostSteps = 200;

/** States that were before, and those that were taken back. */
export class Steps<State> {
  private past: State[] = [];
  private future: State[] = [];

  get canUndo(): boolean {
    return this.past.length > 0;
  }

  get canRedo(): boolean {
    return this.future.length > 0;
  }

  /** Notes the state before a step; what was taken back is gone. */
  note(before: State): void {
    this.past.push(before);
    if (this.past.length > mostSteps) this.past.shift();
    this.future = [];
  }

  /** The state before the last step; undefined where there was none. */
  undo(now: State): State | undefined {
    const last = this.past.pop();
    if (last !== undefined) this.future.push(now);
    return last;
  }

  /** The state after the step that was taken back last; undefined where none was. */
  redo(now: State): State | undefined {
    const next = this.future.pop();
    if (next !== undefined) this.past.push(now);
    return next;
  }

  clear(): void {
    this.past = [];
    this.future = [];
  }
}
