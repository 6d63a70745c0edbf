import type { Row } from '@ephoros/core/answer';
import type { Change, ChangeOutcome, ChangesAnswer } from '@ephoros/core/change';
import type { Problem } from '@ephoros/core/problem';
import { printKey, type TableDescription } from '@ephoros/core/schema';
import { pauseAfter } from '../back-off.ts';
import { keyOfRow } from '../chosen-rows.ts';
import { randomId } from '../random-id.ts';
import { ServiceError } from '../service-error.ts';
import {
  begun,
  changeOf,
  decided,
  ids,
  isNew,
  problemsOf,
  sameDraft,
  shownRow,
  withValue,
  type DraftConflict,
  type RowDraft,
} from './draft.ts';
import type { SentSet } from './draft-store.ts';
import type { CellEdit, DraftsOptions, DraftsState, SavedSet } from './drafts-state.ts';
import { draftOf, isStillWanted, next, setOf, type RowEvent } from './row-state.ts';
import { SharedRows } from './shared-rows.ts';
import { Steps, type RowStep } from './steps.ts';

const laterByTimer = (work: () => void, milliseconds: number): (() => void) => {
  const timer = setTimeout(work, milliseconds);
  return () => clearTimeout(timer);
};

/** Ms after which a request of another page that is not answered yet is sent again from here. */
const untilTakenOver = 15_000;

/** Drafts by the ids of their rows; undefined where a draft ends. */
type Edits = ReadonlyMap<string, RowDraft | undefined>;

/**
 * Edits of the rows of one table that are not saved yet, over whatever source shows them: changed
 * cells, new rows, struck rows; with undo and redo, checked as they are made. The edits of each row
 * are in one state (`RowState`); pages that share a store share the rows. What was sent while the
 * service was unavailable is sent again under the same key, so that it is saved once; what was
 * discarded meanwhile is withdrawn instead.
 */
export class Drafts {
  readonly table: TableDescription;
  private readonly options: DraftsOptions;
  private readonly later: NonNullable<DraftsOptions['later']>;
  private readonly shared: SharedRows;
  private readonly steps = new Steps((id) => draftOf(this.shared.row(id)?.state));
  private status: DraftsState['status'] = 'ready';
  private error: Error | undefined;
  private lastSaved: SavedSet | undefined;
  private failures = 0;
  private numbered = 0;
  private isClosed = false;
  private stopWaiting: () => void = () => undefined;
  private current: DraftsState | undefined;
  private readonly listeners = new Set<() => void>();
  /** Rows as they are shown: the same as long as their draft is. */
  private readonly overlays = new WeakMap<Row, { readonly of: RowDraft; readonly row: Row }>();
  /** One request after the other. */
  private working: Promise<unknown> = Promise.resolve();
  private readonly inFlight = new Set<string>();

  constructor(options: DraftsOptions) {
    this.options = options;
    this.table = options.table;
    this.later = options.later ?? laterByTimer;
    const { store, page = randomId() } = options;
    this.shared = new SharedRows(store, page);
  }

  /**
   * Begins to hear of what other pages draft, and sends again what was not answered when the page was
   * left. Gives back how to end that; what is stored stays stored, and nothing is sent again until
   * it is opened again.
   */
  open = (): (() => void) => {
    const { store } = this.options;
    this.isClosed = false;
    const hear = (): void => {
      if (!this.read()) return;
      // A page that has gone answers for its requests no more.
      if (this.status === 'ready' && this.unanswered().length > 0) this.retryIn(untilTakenOver);
      this.notify();
    };
    hear();
    const stopListening = store?.subscribe?.(hear) ?? (() => undefined);
    if (this.unanswered().length > 0) this.wait(0);
    return () => {
      this.isClosed = true;
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
    return id === undefined ? undefined : this.draft(id);
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
    const made = new Map<string, RowDraft | undefined>();
    const draftNow = (id: string): RowDraft | undefined =>
      made.has(id) ? made.get(id) : this.draft(id);
    for (const { row, column, value, labels: shown } of edits) {
      const id = this.idOf(row);
      if (id === undefined) continue;
      const draft = draftNow(id) ?? (typeof row === 'string' ? undefined : this.begun(id, row));
      if (draft === undefined || draft.kind === 'struck') continue;
      made.set(id, withValue(draft, column, value, shown));
    }
    this.step(made);
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
      while (this.shared.row(`new ${this.numbered}`) !== undefined);
      return `new ${this.numbered}`;
    });
    const added = made.map((id, index): [string, RowDraft] => [
      id,
      { id, kind: 'added', observed: {}, values: rows[index] ?? {} },
    ]);
    // The first of several stands on top.
    this.step(new Map(added.reverse()));
    return made;
  }

  /** Strikes rows that are there until that is saved, or takes the strike back; drops new ones. */
  strike(rows: readonly (Row | string)[]): void {
    const named = rows.map((row) => this.idOf(row));
    const all = named.every((id) => id === undefined || this.draft(id)?.kind === 'struck');
    const made = new Map<string, RowDraft | undefined>();
    for (const [index, id] of named.entries()) {
      const row = rows[index];
      if (id === undefined || row === undefined) continue;
      const observed = this.draft(id)?.observed ?? row;
      if (isNew(id) || all) made.set(id, undefined);
      else if (typeof observed === 'object')
        made.set(id, { id, kind: 'struck', observed, values: {} });
    }
    this.step(made);
  }

  /**
   * Drops what is drafted of some rows. Without rows all that was edited in this page; what was
   * edited in others is dropped where this page has none of its own.
   */
  drop(rows?: readonly (Row | string)[]): void {
    const all = this.shared.rows().filter(([, { state }]) => draftOf(state) !== undefined);
    const own = all.filter(([, { page }]) => page === this.shared.page);
    const named =
      rows?.map((row) => this.idOf(row) ?? '') ?? (own.length > 0 ? own : all).map(([id]) => id);
    this.step(new Map(named.map((id) => [id, undefined])));
  }

  undo = (): void => {
    this.take(this.steps.undo(), 'before');
  };

  redo = (): void => {
    this.take(this.steps.redo(), 'after');
  };

  /**
   * Ends a conflict, of one column or of all: by my value, over what is there now, or by theirs. A row
   * that is gone can only be let go.
   */
  resolve(id: string, whose: 'mine' | 'theirs', column?: string): void {
    const state = this.shared.row(id)?.state;
    if (state?.kind !== 'conflict') return;
    const { draft: before } = state;
    const { now, columns } = state.conflict;
    const those = column === undefined ? columns : columns.filter((one) => one === column);
    const draft = now === null ? undefined : decided(before, now, those, whose);
    const names = columns.filter((name) => !those.includes(name));
    const left = names.length === 0 ? undefined : { now, columns: names };
    this.steps.note([{ id, before, after: draft }]);
    this.put(id, { kind: 'resolve', draft, left });
    this.edited();
  }

  /**
   * Saves all drafts, or those of some rows. True where all of them were; else the state says what is
   * in the way. What has errors or open conflicts is not sent.
   */
  save(rows?: readonly (Row | string)[]): Promise<boolean> {
    const named = rows && new Set(rows.map((row) => this.idOf(row)));
    return this.afterOthers(() => this.saveNow(named));
  }

  /** Takes over what other pages have written; whether that was anything. */
  private read(): boolean {
    const { isChanged, answered } = this.shared.read();
    // What another page has saved is not brought back by steps of this one.
    this.steps.forget(answered);
    return isChanged;
  }

  /** A draft without edits. One that was discarded while it was sent begins where that one did. */
  private begun(id: string, row: Row): RowDraft {
    const state = this.shared.row(id)?.state;
    const sent = state?.kind === 'changed-since' ? state.sent : undefined;
    return sent?.kind === 'changed' ? { ...sent, values: {} } : begun(id, row);
  }

  private draft(id: string): RowDraft | undefined {
    return draftOf(this.shared.row(id)?.state);
  }

  /** Work once the requests before it are answered. */
  private afterOthers(work: () => Promise<boolean>): Promise<boolean> {
    const done = this.working.then(work);
    this.working = done.catch(() => undefined);
    return done;
  }

  private async saveNow(named: ReadonlySet<string | undefined> | undefined): Promise<boolean> {
    this.stopWaiting();
    // What was sent before, and perhaps saved, comes first; other pages may send more meanwhile.
    do if (!(await this.settleUnanswered())) return false;
    while (this.unanswered().length > 0);
    const wanted = this.shared.rows().flatMap(([id, { state }]) => {
      const draft = draftOf(state);
      return draft !== undefined && named?.has(id) !== false ? [draft] : [];
    });
    if (wanted.length === 0) return true;
    return this.areRight(wanted) && this.sendNew(wanted);
  }

  /** Whether drafts may be sent. What the database refused before may be right by now. */
  private areRight(drafts: readonly RowDraft[]): boolean {
    const { table, tables } = this.options;
    return drafts.every(
      (draft) =>
        this.shared.row(draft.id)?.state.kind !== 'conflict' &&
        problemsOf(draft, table, tables).length === 0,
    );
  }

  private sendNew(drafts: readonly RowDraft[]): Promise<boolean> {
    const { newKey = randomId } = this.options;
    const set = { key: newKey(), drafts, sends: 0 };
    this.shared.begin(set);
    for (const { id } of drafts) this.put(id, { kind: 'send', set: set.key });
    return this.send(set, true);
  }

  /** Requests that were sent and not answered, by this page or others. */
  private unanswered(): readonly SentSet[] {
    this.read();
    return this.shared.sets().filter(({ key }) => !this.inFlight.has(key));
  }

  /** Sends again, or withdraws, what was not answered. False where that has to wait. */
  private async settleUnanswered(): Promise<boolean> {
    for (const set of this.unanswered()) {
      const isWanted = set.drafts.every(({ id }) => {
        const state = this.shared.row(id)?.state;
        return setOf(state) === set.key && isStillWanted(state);
      });
      const isSettled = isWanted ? await this.send(set) : await this.withdraw(set);
      if (!isSettled) return false;
    }
    return true;
  }

  private async send(set: SentSet, isNew = false): Promise<boolean> {
    const { table, save, withdraw = () => Promise.resolve(null) } = this.options;
    const changes = set.drafts.map((draft) => changeOf(draft, table));
    if (!isNew) this.shared.begin(set);
    const found = { isWithdrawn: false };
    const isDone = await this.request(set, async () => {
      try {
        this.saved(set, await save(changes, { table: table.name, idempotencyKey: set.key }));
      } catch (thrown) {
        const { sends = 0 } = this.shared.set(set.key) ?? {};
        // A page that shares the store may send it too, and has no room to note that where the store is full.
        const isSentOnce = sends < 2 && this.options.store === undefined;
        if (isUnanswered(thrown) || isSentOnce) throw thrown;
        // The same request may still arrive from elsewhere, or late: that it may not be saved then. A service without
        // records cannot withdraw it; then the reason of the refusal is what matters.
        const answer = await withdraw(set.key).catch((failure: unknown) => {
          throw isUnanswered(failure) ? failure : thrown;
        });
        found.isWithdrawn = answer === null && wasWithdrawn(thrown);
        if (answer !== null) this.saved(set, answer);
        else if (!found.isWithdrawn) throw thrown;
      }
      return true;
    });
    return found.isWithdrawn ? this.sendRest(set) : isDone;
  }

  /** Withdraws a request with a discarded edit; what is still wanted of it is sent as another one. */
  private async withdraw(set: SentSet): Promise<boolean> {
    const { withdraw = () => Promise.resolve(null) } = this.options;
    const isWithdrawn = await this.request(set, async () => {
      const answer = await withdraw(set.key);
      if (answer !== null) this.saved(set, answer);
      return true;
    });
    return isWithdrawn && this.sendRest(set);
  }

  /** Sends what is still wanted of a request that was withdrawn, as another one. */
  private async sendRest(set: SentSet): Promise<boolean> {
    this.read();
    const wanted = set.drafts.flatMap(({ id }) => {
      const state = this.shared.row(id)?.state;
      return setOf(state) === set.key && isStillWanted(state) ? [id] : [];
    });
    this.returned(set);
    const drafts = wanted.flatMap((id) => this.draft(id) ?? []);
    if (drafts.length === 0) return true;
    return this.areRight(drafts) && this.sendNew(drafts);
  }

  /** A request about a set: what it comes to is noted in the rows. False where it was not done. */
  private async request(set: SentSet, request: () => Promise<boolean>): Promise<boolean> {
    this.inFlight.add(set.key);
    this.status = 'saving';
    this.error = undefined;
    this.notify();
    try {
      return await request();
    } catch (thrown) {
      this.failed(set, thrown instanceof Error ? thrown : new Error(String(thrown)));
      return false;
    } finally {
      this.inFlight.delete(set.key);
      this.notify();
    }
  }

  private saved(set: SentSet, answer: ChangesAnswer): void {
    const { table, onSaved } = this.options;
    this.settled();
    for (const [index, { id }] of set.drafts.entries()) {
      const outcome = answer.outcomes[index];
      const row = outcome?.kind === 'done' && 'row' in outcome ? outcome.row : null;
      this.put(id, { kind: 'saved', set: set.key, row, table });
    }
    this.shared.end(set.key);
    // Behind what is saved nothing is undone here: that is a set of its own.
    if (this.shared.rows().length === 0) this.steps.clear();
    else this.steps.forget(new Set(set.drafts.map(({ id }) => id)));
    const keys = answer.outcomes.flatMap((one) =>
      one.kind === 'done' && 'key' in one && one.row !== null ? [printKey(one.key)] : [],
    );
    this.lastSaved = { id: answer.id, rows: set.drafts.length, keys };
    onSaved?.(answer);
  }

  private returned(set: SentSet): void {
    this.settled();
    for (const { id } of set.drafts) this.put(id, { kind: 'returned', set: set.key });
    this.shared.end(set.key);
  }

  private failed(set: SentSet, error: Error): void {
    // Another page had the answer, and noted what it came to.
    if (this.shared.set(set.key) === undefined) {
      this.settled();
      return;
    }
    if (isUnanswered(error)) {
      this.failures += 1;
      this.error = error;
      this.wait(pauseAfter(this.failures, (error.retryAfter ?? 0) * 1000));
      return;
    }
    const { outcomes, problems } = error instanceof ServiceError ? error : noDetails;
    let isReported = false;
    for (const [index, { id }] of set.drafts.entries()) {
      const event = eventOf(set.key, outcomes[index], index, problems);
      if (event !== undefined) isReported = true;
      if (event !== undefined) this.put(id, event);
    }
    this.returned(set);
    // A problem without a row belongs to all of them.
    this.error = isReported ? undefined : error;
  }

  private settled(): void {
    this.failures = 0;
    this.status = 'ready';
  }

  private wait(pause: number): void {
    this.status = 'waiting';
    this.retryIn(pause);
  }

  private retryIn(pause: number): void {
    this.stopWaiting();
    // Another page, or this one opened again, goes on with it.
    if (this.isClosed) return;
    this.stopWaiting = this.later(() => {
      void this.afterOthers(() => this.settleUnanswered()).then(() => {
        if (this.status === 'waiting' && this.unanswered().length === 0) this.settled();
        this.notify();
      });
    }, pause);
  }

  /** Makes edits, as one step of undoing. */
  private step(edits: Edits): void {
    this.read();
    const rows = [...edits].flatMap(([id, after]): RowStep[] => {
      const before = this.draft(id);
      return isSame(before, after) ? [] : [{ id, before, after }];
    });
    this.steps.note(rows);
    this.take(rows, 'after');
  }

  private take(rows: readonly RowStep[] | undefined, side: 'before' | 'after'): void {
    for (const row of rows ?? []) this.put(row.id, { kind: 'edit', draft: row[side] });
    this.edited();
  }

  private edited(): void {
    this.error = undefined;
    this.lastSaved = undefined;
    this.notify();
  }

  /** Has an event change the state of a row, which may have another key afterwards. */
  private put(id: string, event: RowEvent): void {
    const known = this.shared.row(id);
    const state = next(known?.state, event);
    if (state === known?.state) return;
    const own = event.kind === 'edit' || event.kind === 'resolve' || known === undefined;
    const row = state && this.shared.stored(state, own ? undefined : known);
    const now = draftOf(state)?.id ?? id;
    if (now !== id) this.shared.put(id, undefined);
    this.shared.put(now, row);
  }

  private makeState(): DraftsState {
    const { table, tables } = this.options;
    const states = this.shared.rows();
    const drafts = states.flatMap(([, { state }]) => draftOf(state) ?? []);
    const rows = [
      ...drafts.filter(({ kind }) => kind === 'added').reverse(),
      ...drafts.filter(({ kind }) => kind !== 'added'),
    ];
    const conflicts = new Map<string, DraftConflict>();
    const refused = new Map<string, readonly Problem[]>();
    for (const [id, { state }] of states) {
      if (state.kind === 'conflict') conflicts.set(id, state.conflict);
      if (state.kind === 'refused') refused.set(id, state.problems);
    }
    const problems = new Map(
      rows.flatMap((draft): [string, readonly Problem[]][] => {
        const found = [...problemsOf(draft, table, tables), ...(refused.get(draft.id) ?? [])];
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
      conflicts,
      fromOtherPages: states.filter(
        ([, { page, state }]) => page !== this.shared.page && draftOf(state) !== undefined,
      ).length,
      status: this.status,
      error: this.error,
      storage: this.shared.storage,
      saved: this.lastSaved,
      canUndo: this.steps.canUndo,
      canRedo: this.steps.canRedo,
    };
  }

  private notify(): void {
    this.current = undefined;
    for (const listener of [...this.listeners]) listener();
  }
}

/** Whether it is not known if a request was saved. */
function isUnanswered(thrown: unknown): thrown is ServiceError {
  return thrown instanceof ServiceError && thrown.kind === 'unavailable';
}

function wasWithdrawn(thrown: unknown): boolean {
  return (
    thrown instanceof ServiceError && thrown.problems.some(({ code }) => code === 'withdrawn-key')
  );
}

const noDetails = { outcomes: [], problems: [] } as const;

/** What an answer that refuses a set says of one of its changes; undefined where that is nothing. */
function eventOf(
  set: string,
  outcome: ChangeOutcome | undefined,
  index: number,
  problems: readonly Problem[],
): RowEvent | undefined {
  if (outcome?.kind === 'conflict' && 'now' in outcome) {
    const { columns, now } = outcome;
    return { kind: 'conflict', set, conflict: { columns, now } };
  }
  const own = problems.filter(({ change }) => change === index);
  return own.length === 0 ? undefined : { kind: 'refuse', set, problems: own };
}

function isSame(one: RowDraft | undefined, other: RowDraft | undefined): boolean {
  if (one === undefined || other === undefined) return one === other;
  return sameDraft(one, other) && one.observed === other.observed;
}
