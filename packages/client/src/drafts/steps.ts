import { sameDraft, type RowDraft } from './draft.ts';

/** Steps that can be undone at most. */
const mostSteps = 200;

/** What a step did to one row: its draft before and after, undefined where there was none. */
export interface RowStep {
  readonly id: string;
  readonly before: RowDraft | undefined;
  readonly after: RowDraft | undefined;
}

/** The present draft of a row. */
type DraftNow = (id: string) => RowDraft | undefined;

/**
 * The steps that were made in this page, row by row, and those that were undone. A step is undone for
 * the rows that are still as it left them: what another page did to a row since stays.
 */
export class Steps {
  private past: (readonly RowStep[])[] = [];
  private future: (readonly RowStep[])[] = [];
  private readonly now: DraftNow;

  constructor(now: DraftNow) {
    this.now = now;
  }

  get canUndo(): boolean {
    return this.past.some((step) => this.applicable(step, 'after').length > 0);
  }

  get canRedo(): boolean {
    return this.future.some((step) => this.applicable(step, 'before').length > 0);
  }

  /** Notes a step; what was undone is gone. */
  note(step: readonly RowStep[]): void {
    if (step.length === 0) return;
    this.past.push(step);
    if (this.past.length > mostSteps) this.past.shift();
    this.future = [];
  }

  /** The last step that can be undone, for the rows that it can be undone for; undefined where none can. */
  undo(): readonly RowStep[] | undefined {
    return this.take(this.past, this.future, 'after');
  }

  /** The step that was undone last. */
  redo(): readonly RowStep[] | undefined {
    return this.take(this.future, this.past, 'before');
  }

  clear(): void {
    this.past = [];
    this.future = [];
  }

  /** Forgets the steps of some rows: behind what is saved nothing is undone here. */
  forget(ids: ReadonlySet<string>): void {
    const without = (steps: readonly (readonly RowStep[])[]): (readonly RowStep[])[] =>
      steps.map((step) => step.filter(({ id }) => !ids.has(id))).filter((step) => step.length > 0);
    this.past = without(this.past);
    this.future = without(this.future);
  }

  private take(
    from: (readonly RowStep[])[],
    to: (readonly RowStep[])[],
    side: 'before' | 'after',
  ): readonly RowStep[] | undefined {
    for (let step = from.pop(); step !== undefined; step = from.pop()) {
      const rows = this.applicable(step, side);
      if (rows.length === 0) continue;
      to.push(rows);
      return rows;
    }
    return undefined;
  }

  private applicable(step: readonly RowStep[], side: 'before' | 'after'): readonly RowStep[] {
    return step.filter((row) => isSame(row[side], this.now(row.id)));
  }
}

function isSame(one: RowDraft | undefined, other: RowDraft | undefined): boolean {
  if (one === undefined || other === undefined) return one === other;
  return sameDraft(one, other);
}
