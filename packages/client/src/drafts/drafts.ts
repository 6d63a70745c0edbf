import type { Row, Value } from '@ephoros/core/answer';
import type { Change, ChangeOutcome, ChangesAnswer } from '@ephoros/core/change';
import type { Problem } from '@ephoros/core/problem';
import type { TableDescription, Tables } from '@ephoros/core/schema';
import { pauseAfter } from '../back-off.ts';
import type { SaveOptions } from '../changes.ts';
import { keyOfRow } from '../chosen-rows.ts';
import { ServiceError } from '../service-error.ts';
import {
  changeOf,
  isNew,
  problemsOf,
  sameValue,
  shownRow,
  withValue,
  type DraftConflict,
  type RowDraft,
} from './draft.ts';

/** Where drafts are kept while a page is loaded anew; a text that is empty keeps nothing. */
export interface DraftStore {
  readonly read: () => string;
  readonly write: (text: string) => void;
  /** Tells when somebody else has written, such as another page. */
  readonly subscribe?: (listener: () => void) => () => void;
}

export interface DraftsOptions {
  readonly table: TableDescription;
  /** The tables that rules may name. */
  readonly tables?: Tables;
  /** Saves changes of the table, as `client.changes.save` does. */
  readonly save: (
    changes: readonly Change[],
    options: SaveOptions & { readonly table: string },
    signal?: AbortSignal,
  ) => Promise<ChangesAnswer>;
  readonly store?: DraftStore;
  /** Told when something was saved: rows are to be read anew. */
  readonly onSaved?: (answer: ChangesAnswer) => void;
  /** Makes the key of a request; a random one by default. */
  readonly newKey?: () => string;
  /** Has something done later, in ms; gives back how to stop that. */
  readonly later?: (work: () => void, milliseconds: number) => () => void;
}

/** What is drafted. A new object whenever anything has changed. */
export interface DraftsState {
  /** In the order in which they were begun; new rows first, the newest on top. */
  readonly rows: readonly RowDraft[];
  /** Cells and rows that wait to be saved. */
  readonly changes: number;
  /** What is wrong, by the id of the row. */
  readonly problems: ReadonlyMap<string, readonly Problem[]>;
  /** Rows that somebody else has changed meanwhile, by their id. */
  readonly conflicts: ReadonlyMap<string, DraftConflict>;
  /** `waiting` while the service is away: it is sent again by itself. */
  readonly status: 'ready' | 'saving' | 'waiting';
  /** Why the last saving failed, where no row is to blame. */
  readonly error: Error | undefined;
  readonly canUndo: boolean;
  readonly canRedo: boolean;
}

/** A new value of a cell: of a row that is there, or of a new one by its id. */
export interface CellEdit {
  readonly row: Row | string;
  readonly column: string;
  readonly value: Value;
  /** What is shown beside it, such as the name of the row that it refers to. */
  readonly beside?: Row;
}

/** What was sent and is not answered yet. */
interface Pending {
  readonly key: string;
  readonly drafts: readonly RowDraft[];
}

type DraftMap = ReadonlyMap<string, RowDraft>;

const mostSteps = 200;

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
  private past: DraftMap[] = [];
  private future: DraftMap[] = [];
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
      const draft = next.get(id) ?? begun(id, row);
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
    const last = this.past.pop();
    if (last === undefined) return;
    this.future.push(this.drafts);
    this.put(last);
  };

  redo = (): void => {
    const next = this.future.pop();
    if (next === undefined) return;
    this.past.push(this.drafts);
    this.put(next);
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
    if (now === null || (draft.kind === 'struck' && whose === 'theirs')) next.delete(id);
    else {
      const theirs = Object.fromEntries(those.map((name) => [name, now[name] ?? null]));
      const seen =
        draft.kind === 'struck' ? { ...draft.seen, ...now } : { ...draft.seen, ...theirs };
      let changed: RowDraft | undefined = { ...draft, seen };
      if (whose === 'theirs') {
        for (const [name, value] of Object.entries(theirs)) {
          changed = changed && withValue(changed, name, value);
        }
      }
      if (changed === undefined) next.delete(id);
      else next.set(id, changed);
    }
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
    const { newKey = randomKey } = this.options;
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
      // What was typed meanwhile goes on from the row as it was saved.
      const address = keyOfRow(row, this.table.key);
      if (address === undefined) continue;
      let rest: RowDraft | undefined = { id: address, kind: 'changed', seen: row, values: {} };
      for (const [name, value] of Object.entries(now.values)) {
        if (sameValue(value, sent.values[name] ?? null)) continue;
        rest = withValue(
          rest ?? { id: address, kind: 'changed', seen: row, values: {} },
          name,
          value,
        );
      }
      if (rest !== undefined && Object.keys(rest.values).length > 0) next.set(address, rest);
    }
    // Behind what is saved nothing is undone here: that is a set of its own.
    this.past = [];
    this.future = [];
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
    this.past.push(this.drafts);
    if (this.past.length > mostSteps) this.past.shift();
    this.future = [];
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
      canUndo: this.past.length > 0,
      canRedo: this.future.length > 0,
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
    const rows = [...this.drafts.values()];
    const text =
      rows.length === 0 && pending === undefined ? '' : JSON.stringify({ version, rows, pending });
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
    this.past = [];
    this.future = [];
  }
}

const noDetails = { outcomes: [], problems: [] } as const;

/** The ids of rows that are made here. */
const ids = new WeakMap<Row, string>();

/** A new row as a source shows it: by its id it is known again. */
export function newRow(draft: RowDraft): Row {
  const { id } = draft;
  const row = { ...shownRow({}, draft) };
  ids.set(row, id);
  return row;
}

function begun(id: string, row: Row | string): RowDraft | undefined {
  return typeof row === 'string' ? undefined : { id, kind: 'changed', seen: row, values: {} };
}

function sameDraft(one: RowDraft, other: RowDraft): boolean {
  return one === other || (one.kind === other.kind && sameValue(one.values, other.values));
}

function randomKey(): string {
  return crypto.randomUUID();
}

const version = 1;

/** What was kept; nothing where it is of another version, or no drafts at all. */
function keptIn(text: string): {
  readonly rows: readonly RowDraft[];
  readonly pending: Pending | undefined;
} {
  const none = { rows: [], pending: undefined };
  if (text === '') return none;
  try {
    const read = JSON.parse(text) as Readonly<Record<string, unknown>>;
    if (read.version !== version || !areDrafts(read.rows)) return none;
    const { key, drafts } = (read.pending ?? {}) as Readonly<Record<string, unknown>>;
    const pending = typeof key === 'string' && areDrafts(drafts) ? { key, drafts } : undefined;
    return { rows: read.rows, pending };
  } catch {
    return none;
  }
}

function areDrafts(read: unknown): read is readonly RowDraft[] {
  return (
    Array.isArray(read) &&
    read.every((one: unknown) => {
      const { id, kind, seen, values } = (one ?? {}) as Readonly<Record<string, unknown>>;
      const known = kind === 'added' || kind === 'changed' || kind === 'struck';
      return (
        typeof id === 'string' && known && typeof seen === 'object' && typeof values === 'object'
      );
    })
  );
}
