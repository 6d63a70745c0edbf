import type { Row } from '@ephoros/core/answer';
import type { Change, ChangeOutcome, ChangesAnswer } from '@ephoros/core/change';
import type { Problem } from '@ephoros/core/problem';
import type { TableDescription } from '@ephoros/core/schema';
import { pauseAfter } from '../back-off.ts';
import { keyOfRow } from '../chosen-rows.ts';
import { ServiceError } from '../service-error.ts';
import {
  begun,
  changeOf,
  decided,
  ids,
  isNew,
  leftAfter,
  problemsOf,
  sameDraft,
  shownRow,
  withValue,
  type DraftConflict,
  type RowDraft,
} from './draft.ts';
import type { CellEdit, DraftsOptions, DraftsState } from './drafts-state.ts';
import { keptIn, keptText, type Pending } from './kept-drafts.ts';
import { Steps } from './steps.ts';

type DraftMap = ReadonlyMap<string, RowDraft>;

const laterByTimer = (work: () => void, milliseconds: number): (() => void) => {
  const timer = setTimeout(work, milliseconds);
  return () => clearTimeout(timer);
};

/**
 * Edits of the rows of one table that are not saved yet, over whatever source shows them: changed
 * cells, new rows, struck rows; with undo and redo, checked as they are made. What was sent while the
 * service went away is sent again under the same key, so that it is saved once.
 */
export class Drafts {
  readonly table: TableDescription;
  private readonly options: DraftsOptions;
  private readonly later: NonNullable<DraftsOptions['later']>;
  private drafts: DraftMap = new Map();
  private readonly steps = new Steps<DraftMap>();
  private refused = new Map<string, readonly Problem[]>();
  private conflicts = new Map<string, DraftConflict>();
  private status: DraftsState['status'] = 'ready';
  private error: Error | undefined;
  private pending: Pending | undefined;
  private failures = 0;
  private numbered = 0;
  private stopWaiting: () => void = () => undefined;
  private lastWritten = '';
  private current: DraftsState | undefined;
  private readonly listeners = new Set<() => void>();
  /** Rows as they are shown: the same as long as their draft is. */
  private readonly overlays = new WeakMap<Row, { readonly of: RowDraft; readonly row: Row }>();
  private saving: Promise<boolean> | undefined;

  constructor(options: DraftsOptions) {
    this.options = options;
    this.table = options.table;
    this.later = options.later ?? laterByTimer;
    this.restore();
  }

  /**
   * Begins to hear of what other pages draft, and sends again what was on its way when the page was
   * left. Gives back how to end that; what is kept stays kept.
   */
  open = (): (() => void) => {
    const { store } = this.options;
    const hear = (): void => {
      if (store?.read() === this.lastWritten || this.saving !== undefined) return;
      this.restore();
      this.tell();
    };
    hear();
    const stopListening = store?.subscribe?.(hear) ?? (() => undefined);
    if (this.pending !== undefined) this.wait(0);
    return () => {
      this.stopWaiting();
      stopListening();
    };
  };

  state = (): DraftsState => {
    this.current ??= this.makeState();
    return this.current;
  };

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** What is drafted of a row, or under an id. */
  of = (row: Row | string): RowDraft | undefined => {
    const id = this.idOf(row);
    return id === undefined ? undefined : this.drafts.get(id);
  };

  /** A row with what is drafted of it. */
  shown = (row: Row): Row => {
    const draft = this.of(row);
    if (draft === undefined) return row;
    const known = this.overlays.get(row);
    if (known?.of === draft) return known.row;
    const made = shownRow(row, draft);
    // By its id, since its key may be another one by now.
    if (made !== row) ids.set(made, draft.id);
    this.overlays.set(row, { of: draft, row: made });
    return made;
  };

  /** The changes that save all of it. */
  changes(): readonly Change[] {
    return this.state().rows.map((draft) => changeOf(draft, this.table));
  }

  /** The key of a row as its address has it, or the id of a new one. */
  idOf(row: Row | string): string | undefined {
    return typeof row === 'string' ? row : (ids.get(row) ?? keyOfRow(row, this.table.key));
  }

  /** Changes cells, as one step of undoing. Rows without a key are left as they are. */
  edit(edits: readonly CellEdit[]): void {
    const next = new Map(this.drafts);
    for (const { row, column, value, beside } of edits) {
      const id = this.idOf(row);
      if (id === undefined) continue;
      const draft = next.get(id) ?? (typeof row === 'string' ? undefined : begun(id, row));
      if (draft === undefined || draft.kind === 'struck') continue;
      const changed = withValue(draft, column, value, beside);
      if (changed === undefined) next.delete(id);
      else next.set(id, changed);
    }
    this.step(next);
  }

  /** Begins a new row; gives its id. */
  add(values: Row = {}): string {
    const [id = ''] = this.addAll([values]);
    return id;
  }

  /** Begins new rows, as one step of undoing. */
  addAll(rows: readonly Row[]): readonly string[] {
    const made = rows.map(() => {
      do this.numbered += 1;
      while (this.drafts.has(`new ${this.numbered}`));
      return `new ${this.numbered}`;
    });
    const added = made.map((id, index): [string, RowDraft] => [
      id,
      { id, kind: 'added', seen: {}, values: rows[index] ?? {} },
    ]);
    // The first of several stands on top.
    this.step(new Map([...this.drafts, ...added.reverse()]));
    return made;
  }

  /** Strikes rows that are there until that is saved, or takes the strike back; drops new ones. */
  strike(rows: readonly (Row | string)[]): void {
    const next = new Map(this.drafts);
    const named = rows.map((row) => this.idOf(row));
    const all = named.every((id) => id === undefined || next.get(id)?.kind === 'struck');
    for (const [index, id] of named.entries()) {
      const row = rows[index];
      if (id === undefined || row === undefined) continue;
      const seen = next.get(id)?.seen ?? row;
      if (isNew(id) || all) next.delete(id);
      else if (typeof seen === 'object') next.set(id, { id, kind: 'struck', seen, values: {} });
    }
    this.step(next);
  }

  /** Drops what is drafted of some rows, or all of it. */
  drop(rows?: readonly (Row | string)[]): void {
    const next = new Map(rows === undefined ? [] : this.drafts);
    for (const row of rows ?? []) next.delete(this.idOf(row) ?? '');
    this.step(next);
  }

  undo = (): void => {
    const last = this.steps.undo(this.drafts);
    if (last !== undefined) this.put(last);
  };

  redo = (): void => {
    const next = this.steps.redo(this.drafts);
    if (next !== undefined) this.put(next);
  };

  /**
   * Ends a conflict, of one column or of all: by my value, over what is there now, or by theirs. A row
   * that is gone can only be let go.
   */
  resolve(id: string, whose: 'mine' | 'theirs', column?: string): void {
    const conflict = this.conflicts.get(id);
    const draft = this.drafts.get(id);
    if (conflict === undefined || draft === undefined) return;
    const { now, columns } = conflict;
    const next = new Map(this.drafts);
    const those = column === undefined ? columns : columns.filter((one) => one === column);
    const settled = now === null ? undefined : decided(draft, now, those, whose);
    if (settled === undefined) next.delete(id);
    else next.set(id, settled);
    const left = columns.filter((name) => !those.includes(name));
    if (left.length === 0 || !next.has(id)) this.conflicts.delete(id);
    else this.conflicts.set(id, { now, columns: left });
    this.step(next, true);
  }

  /**
   * Saves all drafts, or those of some rows. True where all of them were; else the state says what is
   * in the way. What has mistakes or open conflicts is not sent.
   */
  save(rows?: readonly (Row | string)[]): Promise<boolean> {
    this.saving ??= this.saveNow(rows).finally(() => {
      this.saving = undefined;
    });
    return this.saving;
  }

  private async saveNow(rows?: readonly (Row | string)[]): Promise<boolean> {
    this.stopWaiting();
    // What was sent before, and perhaps saved, comes first.
    if (this.pending !== undefined && !(await this.send(this.pending))) return false;
    const named = new Set(rows?.map((row) => this.idOf(row)));
    const wanted = [...this.drafts.values()].filter(
      ({ id }) => rows === undefined || named.has(id),
    );
    if (wanted.length === 0) return true;
    const { problems, conflicts } = this.state();
    // What the database refused before may be right by now, and is asked again.
    const inTheWay = wanted.some(
      ({ id }) =>
        conflicts.has(id) || ((problems.get(id)?.length ?? 0) > 0 && !this.refused.has(id)),
    );
    if (inTheWay) return false;
    const { newKey = () => crypto.randomUUID() } = this.options;
    return this.send({ key: newKey(), drafts: wanted });
  }

  private async send(pending: Pending): Promise<boolean> {
    const { table, save } = this.options;
    this.pending = pending;
    this.status = 'saving';
    this.error = undefined;
    this.keep();
    this.tell();
    const changes = pending.drafts.map((draft) => changeOf(draft, table));
    try {
      const answer = await save(changes, { table: table.name, idempotencyKey: pending.key });
      this.saved(pending, answer);
      return true;
    } catch (thrown) {
      this.failed(pending, thrown instanceof Error ? thrown : new Error(String(thrown)));
      return false;
    } finally {
      this.keep();
      this.tell();
    }
  }

  private saved({ drafts }: Pending, answer: ChangesAnswer): void {
    this.settled();
    const next = new Map(this.drafts);
    for (const [index, sent] of drafts.entries()) {
      const { id } = sent;
      this.refused.delete(id);
      const now = next.get(id);
      const outcome = answer.outcomes[index];
      next.delete(id);
      const row = outcome?.kind === 'done' && 'row' in outcome ? outcome.row : null;
      if (now === undefined || row === null || sameDraft(now, sent)) continue;
      const rest = leftAfter(now, sent, row, this.table);
      if (rest !== undefined) next.set(rest.id, rest);
    }
    // Behind what is saved nothing is undone here: that is a set of its own.
    this.steps.clear();
    this.drafts = next;
    this.options.onSaved?.(answer);
  }

  private failed(pending: Pending, error: Error): void {
    if (error instanceof ServiceError && error.kind === 'away') {
      this.failures += 1;
      this.error = error;
      this.wait(pauseAfter(this.failures, (error.retryAfter ?? 0) * 1000));
      return;
    }
    this.settled();
    const { outcomes, problems } = error instanceof ServiceError ? error : noDetails;
    this.error = problems.length === 0 && outcomes.length === 0 ? error : undefined;
    for (const [index, { id }] of pending.drafts.entries()) {
      const outcome: ChangeOutcome | undefined = outcomes[index];
      if (outcome?.kind === 'conflict' && 'now' in outcome) {
        const { columns, now } = outcome;
        this.conflicts.set(id, { columns, now });
      }
      const own = problems.filter(({ change }) => change === index);
      if (own.length > 0) this.refused.set(id, own);
      else this.refused.delete(id);
    }
    // What belongs to no row is told of all.
    if (this.error === undefined && this.refused.size + this.conflicts.size === 0)
      this.error = error;
  }

  private settled(): void {
    this.pending = undefined;
    this.failures = 0;
    this.status = 'ready';
  }

  private wait(pause: number): void {
    this.status = 'waiting';
    this.stopWaiting();
    this.stopWaiting = this.later(() => void this.save(), pause);
  }

  private step(next: DraftMap, resolved = false): void {
    this.steps.note(this.drafts);
    this.put(next, resolved);
  }

  private put(next: DraftMap, resolved = false): void {
    // What the database said was of what was sent.
    for (const id of new Set([
      ...this.refused.keys(),
      ...(resolved ? [] : this.conflicts.keys()),
    ])) {
      if (next.get(id) === this.drafts.get(id)) continue;
      this.refused.delete(id);
      if (!resolved && next.get(id)?.seen !== this.drafts.get(id)?.seen) this.conflicts.delete(id);
    }
    this.drafts = next;
    this.error = undefined;
    this.keep();
    this.tell();
  }

  private makeState(): DraftsState {
    const { table, tables } = this.options;
    const all = [...this.drafts.values()];
    const rows = [
      ...all.filter(({ kind }) => kind === 'added').reverse(),
      ...all.filter(({ kind }) => kind !== 'added'),
    ];
    const problems = new Map(
      rows.flatMap((draft): [string, readonly Problem[]][] => {
        const found = [...problemsOf(draft, table, tables), ...(this.refused.get(draft.id) ?? [])];
        return found.length === 0 ? [] : [[draft.id, found]];
      }),
    );
    return {
      rows,
      changes: rows.reduce(
        (sum, { kind, values }) => sum + (kind === 'changed' ? Object.keys(values).length : 1),
        0,
      ),
      problems,
      conflicts: new Map([...this.conflicts].filter(([id]) => this.drafts.has(id))),
      status: this.status,
      error: this.error,
      canUndo: this.steps.canUndo,
      canRedo: this.steps.canRedo,
    };
  }

  private tell(): void {
    this.current = undefined;
    for (const listener of [...this.listeners]) listener();
  }

  private keep(): void {
    const { store } = this.options;
    if (store === undefined) return;
    const { pending } = this;
    const text = keptText({ rows: [...this.drafts.values()], pending });
    if (text === this.lastWritten) return;
    this.lastWritten = text;
    store.write(text);
  }

  private restore(): void {
    const text = this.options.store?.read() ?? '';
    this.lastWritten = text;
    const { rows, pending } = keptIn(text);
    this.drafts = new Map(rows.map((draft) => [draft.id, draft]));
    this.pending = pending;
    this.steps.clear();
  }
}

const noDetails = { outcomes: [], problems: [] } as const;
