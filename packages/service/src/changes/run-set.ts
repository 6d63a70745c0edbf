import {
  actionNotAllowed,
  isSameAnswer,
  mostChanges,
  rulesOf,
  type CheckedChange,
  type CheckedMatchingChange,
  type CheckedRowChange,
  type CheckedValue,
  type ExpectedValue,
} from '@ephoros/core/change';
import { checkQuery, type CheckedExpression } from '@ephoros/core/check';
import { and, missing, not, property } from '@ephoros/core/expression';
import { problem, type Problem } from '@ephoros/core/problem';
import {
  compileConstrained,
  compileCurrentRows,
  compileHeldRows,
  compileRowPolicy,
  compileLocks,
  compileMatchingKeys,
  compileValueTest,
} from '@ephoros/core/sql';
import type { Catalog, Published } from '../catalog/index.ts';
import { expectTypes, valueEncoder } from '../encode/index.ts';
import { mostProblems } from '../query/index.ts';
import { printKey, type ColumnDescription, type ColumnType } from '@ephoros/core/schema';
import type pg from 'pg';
import {
  batchesOf,
  compileBatch,
  isReference,
  readableOf,
  resultsOf,
  writtenTable,
  type Batch,
  type FollowedRows,
  type RowAction,
  type RowResult,
} from './batch.ts';
import {
  FollowerSearch,
  hasFollowers,
  keyIn,
  TooManyFollowers,
  type Cause,
  type Follower,
  type Followers,
} from './followers.ts';
import type { MadeChange } from './log-lines.ts';
import { valuesBetween } from './values-between.ts';
import { titleIfWhole, unknownReference, violationOf, type Violation } from './violations.ts';
import { isRefusal, type TextRow, type Transaction } from './writer.ts';

/** What has become of one change of a set. */
export type Result =
  | RowResult
  | { readonly kind: 'refused'; readonly problems: readonly Problem[] }
  /** Of a change of matching rows: each of them; or how many there are, where that is not as given. */
  | { readonly kind: 'rows'; readonly rows: readonly RowResult[] }
  | { readonly kind: 'other-count'; readonly count: number };

/** Changes by their place in the set that are left out, and why. */
export type LeftOut = ReadonlyMap<number, readonly Problem[]>;

export interface SetRun {
  /** By the place of the change in its set; of what came behind a hundred errors there is none. */
  readonly results: ReadonlyMap<number, Result>;
  /** The rows that were changed, in the order in which they were. */
  readonly made: readonly MadeChange[];
  /** What shows only with all changes made: to be left out from the beginning. */
  readonly broken: LeftOut;
}

export interface RunOptions {
  /** What the caller may see: by it rows are found, and held against rules. */
  readonly catalog: Catalog;
  /** Whether what the database refuses is looked for, change by change; else the first one ends it. */
  readonly careful: boolean;
  /** Whether constraints that wait for the end of the transaction are checked after each change. */
  readonly immediate: boolean;
  readonly leftOut: LeftOut;
  /**
   * Whether an earlier set is undone: rows come back with the numbers that the database had given
   * them, and no row goes that the earlier set did not add.
   */
  readonly undoes: boolean;
}

/** A statement about several rows that has to be made for one row at a time. */
export class OneByOne extends Error {}

/** Makes the changes of a set. @throws Failure; unless it is careful, OneByOne and what the database refuses */
export function runSet(
  changes: readonly CheckedChange[],
  inside: Transaction,
  options: RunOptions,
): Promise<SetRun> {
  return new SetRunner(inside, options).run(changes);
}

type Note = (action: RowAction, result: RowResult) => void;

/** A change that the database may take once others of the set are made. */
interface PutOff {
  readonly batch: Batch;
  readonly action: RowAction;
  readonly note: Note;
  /** Why it was refused; undefined where it waits for a new row of the set. */
  readonly why: pg.DatabaseError | RowRefused | undefined;
}

/** A change that is refused before the database is queried. */
class RowRefused extends Error {
  readonly violation: Violation;
  /** Whether other changes of the set may make it possible. */
  readonly mayWait: boolean;
  constructor(violation: Violation, mayWait: boolean) {
    super(violation.problem.message);
    this.violation = violation;
    this.mayWait = mayWait;
  }
}

/** Leaves an attempt and undoes it. */
class GivenUp extends Error {}

/** Changes that wait for others at most; further ones are refused at once. */
const mostPutOff = 2_000;
/** Changes that are tried with a value in between, where several wait for each other. */
const mostSwaps = 200;

/** Unique, foreign key, restrict and exclusion: what another change of the set may make right. */
const mayBecomeRight = new Set(['23505', '23503', '23001', '23P01']);

class SetRunner {
  private readonly inside: Transaction;
  private readonly options: RunOptions;
  private readonly results = new Map<number, Result>();
  private made: MadeChange[] = [];
  /** The new rows that others may refer to, by name. */
  private readonly added = new Map<string, { readonly of: Published; readonly row: TextRow }>();
  /** The rows that are there after all, by their tables. */
  private readonly standing = new Map<
    string,
    { readonly action: RowAction; readonly key: readonly string[] }[]
  >();
  /** The changes that are about all rows that match. */
  private readonly matchings = new Set<number>();
  /** By table and key, the change that was about the row. */
  private readonly touched = new Map<string, number>();
  /** Rows that went with others, by table and key. */
  private readonly gone = new Map<string, TextRow>();
  private putOff: PutOff[] = [];
  private errors = 0;

  constructor(inside: Transaction, options: RunOptions) {
    this.inside = inside;
    this.options = options;
  }

  async run(changes: readonly CheckedChange[]): Promise<SetRun> {
    if (this.options.immediate) await this.inside.settle();
    let actions: RowAction[] = [];
    const note: Note = ({ at }, result) => this.results.set(at, result);
    for (const change of changes) {
      const reasons = this.options.leftOut.get(change.at);
      if (reasons !== undefined) this.refuse(change.at, reasons);
      else if (change.kind === 'set') {
        await this.rows(actions, note);
        await this.untangle();
        actions = [];
        await this.matching(change);
      } else actions.push(change);
    }
    await this.rows(actions, note);
    await this.untangle();
    return { results: this.results, made: this.made, broken: await this.broken() };
  }

  private async rows(actions: readonly RowAction[], note: Note): Promise<void> {
    for (const batch of batchesOf(actions, (table) => this.published(table))) {
      await this.batch(await this.visibleRows(this.withoutLost(batch, note), note), note);
    }
  }

  private published(table: string): Published {
    const found = this.options.catalog.tables.get(table);
    if (found === undefined) throw new Error(`no table ${table} is published`);
    return found;
  }

  private refuse(at: number, problems: readonly Problem[]): void {
    this.results.set(at, { kind: 'refused', problems });
    this.errors += problems.length;
  }

  private async batch(batch: Batch, note: Note): Promise<void> {
    const { actions } = batch;
    // Nobody reads more errors than these.
    if (actions.length === 0 || this.errors >= mostProblems) return;
    if (!this.options.careful) {
      await this.make(batch, note);
      return;
    }
    const [only] = actions;
    if (only !== undefined && actions.length === 1) {
      const why = await this.attempted(batch, note);
      if (why === undefined) return;
      if (this.mayWait(why) && this.putOff.length < mostPutOff) {
        this.putOff.push({ batch, action: only, note, why });
      } else await this.refuseOne({ batch, action: only, note, why });
      return;
    }
    try {
      await this.inside.attempt(() => this.make(batch, note));
    } catch (thrown) {
      if (!(thrown instanceof OneByOne) && !isRefusal(thrown)) throw thrown;
      const half = Math.ceil(actions.length / 2);
      await this.batch({ ...batch, actions: actions.slice(0, half) }, note);
      await this.batch({ ...batch, actions: actions.slice(half) }, note);
    }
  }

  /** Makes the change of a batch of one; why that was refused, where it was. @throws Failure */
  private async attempted(batch: Batch, note: Note): Promise<PutOff['why']> {
    try {
      await this.inside.attempt(() => this.make(batch, note));
      return undefined;
    } catch (thrown) {
      if (thrown instanceof RowRefused || isRefusal(thrown)) return thrown;
      throw thrown;
    }
  }

  private mayWait(why: PutOff['why']): boolean {
    if (why === undefined) return true;
    if (why instanceof RowRefused) return why.mayWait;
    // What a trigger checks at the end may hold once the other changes are made.
    return this.options.immediate || mayBecomeRight.has(why.code ?? '');
  }

  private async refuseOne({ batch, action, why }: PutOff): Promise<void> {
    if (why === undefined) return;
    const found =
      why instanceof RowRefused ? why.violation : await this.violation(why, batch, action);
    this.refuse(action.at, [placed(action.at, found)]);
  }

  /**
   * Whether the caller's row rule excludes a row that a constraint refused. The rule answers first:
   * otherwise the constraint would reveal values of hidden rows. False if the rule needs a value
   * that only the database can fill in.
   */
  private async isExcluded({ published }: Batch, action: RowAction): Promise<boolean> {
    const { locate } = this.options.catalog;
    const { description } = published;
    const { names } = locate(description.name);
    if (names === undefined || action.kind === 'remove') return false;
    const columns = readableOf(published);
    const row = new Map<string, string | null>();
    if (action.kind === 'change') {
      const current = compileCurrentRows(writtenTable(published), columns, [action.key]);
      const [, ...texts] = (await this.inside.run(current)).rows[0] ?? [];
      for (const [index, text] of texts.entries()) row.set(columns[index]?.name ?? '', text);
    }
    for (const [name, value] of action.values) row.set(name, this.valueOf(value));
    if (columns.some(({ name }) => names.has(name) && !row.has(name))) return false;
    const members = columns.flatMap(({ name, type }) => {
      const text = row.get(name);
      if (text == null) return [];
      const value = type.kind === 'json' ? text : JSON.stringify(text);
      return `${JSON.stringify(name)}:${value}`;
    });
    const given = `[{${members.join(',')}}]`;
    const { rows } = await this.inside.run(compileRowPolicy(description, given, locate));
    return rows.length === 0;
  }

  /**
   * Makes what was put off, in any order that the database takes: again and again as long as
   * something of it succeeds; then with constraints that may wait, then with a value in between.
   */
  private async untangle(): Promise<void> {
    await this.retry();
    if (this.putOff.length > 0) await this.deferred();
    for (let swaps = 0; this.putOff.length > 0 && swaps < mostSwaps; swaps += 1) {
      if (!(await this.swapped())) break;
    }
    for (const one of this.putOff) {
      if (one.why !== undefined) await this.refuseOne(one);
      else this.withoutLost(one.batch, undefined);
    }
    this.putOff = [];
  }

  private async retry(): Promise<void> {
    let before: number;
    do {
      before = this.putOff.length;
      const waiting = this.putOff;
      this.putOff = [];
      for (const { batch, note, ...one } of waiting) {
        const ready = this.withoutLost(batch, note);
        // It waits for a new row once more.
        if (ready.actions.length === 0) continue;
        const why = await this.attempted(ready, note);
        if (why !== undefined) this.putOff.push({ ...one, batch, note, why });
      }
    } while (this.putOff.length > 0 && this.putOff.length < before);
  }

  /** Makes the rest with all constraints put off that can be, where they hold at the end. */
  private async deferred(): Promise<void> {
    await this.allOrNothing(async () => {
      await this.inside.defer();
      await this.retry();
      if (this.putOff.length > 0) throw new GivenUp();
      await this.inside.settle();
    });
  }

  /** Makes one of the changes that wait for each other by way of a value that no other row has. */
  private async swapped(): Promise<boolean> {
    for (const one of this.putOff) {
      const { why, action } = one;
      if (action.kind !== 'change' || why === undefined || why instanceof RowRefused) continue;
      if (why.code !== '23505' && why.code !== '23P01') continue;
      const columns = await this.constrained(why, one);
      for (const column of columns) {
        for (const value of valuesBetween(column)) {
          if (await this.swappedBy(one, action, column, value)) return true;
        }
      }
    }
    return false;
  }

  private async swappedBy(
    one: PutOff,
    action: CheckedRowChange,
    column: ColumnDescription,
    value: string | null,
  ): Promise<boolean> {
    return this.allOrNothing(async () => {
      const others = this.putOff.filter((other) => other !== one);
      const count = this.putOff.length;
      const results: RowResult[] = [];
      const between: RowAction = { ...action, values: new Map([[column.name, value]]) };
      const [first] = batchesOf([between], () => one.batch.published);
      if (first === undefined) throw new GivenUp();
      const early = [...this.made];
      const why = await this.attempted(first, (_action, result) => results.push(result));
      const [parked] = results;
      if (why !== undefined || parked?.kind !== 'done') throw new GivenUp();
      // It is noted once, as it is in the end.
      this.made = early;
      this.touched.delete(rowName(action.table.name, parked.keyBefore ?? parked.key));
      this.standing.get(action.table.name)?.pop();
      this.putOff = others;
      await this.retry();
      const rest: RowAction = { ...action, key: parked.key, was: new Map() };
      const [last] = batchesOf([rest], () => one.batch.published);
      if (last === undefined) throw new GivenUp();
      const refused = await this.attempted(last, (_action, result) => results.push(result));
      const done = results[1];
      const line = this.made.at(-1);
      if (refused !== undefined || done?.kind !== 'done' || line === undefined) throw new GivenUp();
      // One change, from the row as it was.
      const { keyBefore = parked.key, before } = parked;
      const whole: Done = { ...done, keyBefore, ...(before && { before }) };
      this.made = [...this.made.slice(0, -1), { ...line, result: whole }];
      one.note(action, whole);
      await this.retry();
      if (this.putOff.length >= count) throw new GivenUp();
    });
  }

  /** Work that is undone, here and in the database, where it gives up or is refused. */
  private async allOrNothing(work: () => Promise<void>): Promise<boolean> {
    const { putOff } = this;
    const made = [...this.made];
    const maps = [this.results, this.added, this.standing, this.touched, this.gone] as const;
    const before = maps.map((map) => new Map<unknown, unknown>(map));
    const standing = new Map([...this.standing].map(([name, rows]) => [name, [...rows]]));
    try {
      await this.inside.attempt(work);
      return true;
    } catch (thrown) {
      if (!(thrown instanceof GivenUp) && !isRefusal(thrown)) throw thrown;
      for (const [index, map] of maps.entries())
        restore(map as Map<unknown, unknown>, before[index]);
      restore(this.standing, standing);
      this.putOff = putOff;
      this.made = made;
      return false;
    }
  }

  /** The columns of the constraint that was broken that the change writes, one of which may be parked. */
  private async constrained(
    { schema = '', table = '', constraint = '' }: pg.DatabaseError,
    { action }: PutOff,
  ): Promise<readonly ColumnDescription[]> {
    if (action.kind !== 'change') return [];
    const { rows } = await this.inside.run(compileConstrained({ schema, table }, constraint));
    return rows.flatMap(([name]) => {
      if (name == null || !action.values.has(name)) return [];
      return action.table.columns.find((column) => column.name === name) ?? [];
    });
  }

  /** Without changes that refer to rows which are not added: they wait, or are refused at the end. */
  private withoutLost(batch: Batch, note: Note | undefined): Batch {
    const actions = batch.actions.filter((action) => {
      for (const [column, value] of action.kind === 'remove' ? [] : action.values) {
        if (!isReference(value) || this.added.has(value.ref)) continue;
        if (note !== undefined && this.isPutOff(value.ref)) {
          this.putOff.push({
            batch: { ...batch, actions: [action] },
            action,
            note,
            why: undefined,
          });
          return false;
        }
        const found = { problem: problem('unknown-ref', { ref: value.ref }), column };
        this.refuse(action.at, [placed(action.at, found)]);
        return false;
      }
      return true;
    });
    return { ...batch, actions };
  }

  private isPutOff(ref: string): boolean {
    return this.putOff.some(({ action }) => action.kind === 'add' && action.ref === ref);
  }

  /**
   * Without changes of rows that there are not for the caller: for the caller they are gone. The rows
   * are locked first, so that none comes into sight or goes out of it meanwhile.
   */
  private async visibleRows(batch: Batch, note: Note): Promise<Batch> {
    const { kind, published, actions } = batch;
    const { description } = published;
    const { locate, changing } = this.options.catalog;
    if (kind === 'add' || locate(description.name).only === undefined) return batch;
    const keys = actions.map((action) => (action.kind === 'add' ? [] : action.key));
    const table = writtenTable(published);
    if (table.locks) await this.inside.run(compileLocks(table, keys));
    const { rows } = await this.inside.run(
      compileHeldRows(description, table.key, keys, [], locate),
    );
    const visible = new Set(rows.map(([place]) => Number(place) - 1));
    const isThere = (rowAction: RowAction, index: number): boolean =>
      visible.has(index) ||
      (rowAction.kind !== 'add' && this.gone.has(rowName(description.name, rowAction.key)));
    for (const [index, action] of actions.entries()) {
      if (isThere(action, index)) continue;
      // A row may be visible and not be the caller's to change: then it is not reported as gone.
      if (changing === undefined) note(action, { kind: 'conflict', differing: [] });
      else {
        const problem = actionNotAllowed(kind, description.name);
        this.refuse(action.at, [placed(action.at, { problem })]);
      }
    }
    return { ...batch, actions: actions.filter(isThere) };
  }

  private async make(given: Batch, note: Note): Promise<void> {
    const batch = this.withoutGone(given, note);
    if (batch.actions.length === 0) return;
    const search = new FollowerSearch(this.options.catalog, this.inside);
    const followers = await this.followers(batch, search);
    const results = await this.write(batch);
    this.holdTwice(batch, results);
    const followed = await this.followed(batch, results, followers, search);
    this.note(batch, results.map(followed), note);
  }

  /** Without removals of rows that went with another row of the set. */
  private withoutGone(batch: Batch, note: Note): Batch {
    if (batch.kind !== 'remove' || this.gone.size === 0) return batch;
    const actions = batch.actions.filter((action) => {
      if (action.kind === 'add') return true;
      const before = this.gone.get(rowName(action.table.name, action.key));
      if (before !== undefined) {
        note(action, { kind: 'done', key: action.key, keyBefore: action.key, before });
      }
      return before === undefined;
    });
    return { ...batch, actions };
  }

  /** The rows that the database will change with those of a batch. @throws RowRefused, OneByOne */
  private async followers(batch: Batch, search: FollowerSearch): Promise<Followers> {
    const { kind, published, actions, values } = batch;
    const none: Followers = { rows: [], unknown: [] };
    if (kind === 'add') return none;
    const cause: Cause =
      kind === 'remove' ? { kind } : { kind: 'change', columns: values.map(({ name }) => name) };
    const { catalog, careful, undoes } = this.options;
    if (!hasFollowers(catalog, published.description.name, cause)) return none;
    const keys = actions.map((action) => (action.kind === 'add' ? [] : action.key));
    let found: Followers;
    try {
      found = await search.of(published, keys, cause);
    } catch (thrown) {
      if (!(thrown instanceof TooManyFollowers)) throw thrown;
      if (actions.length > 1 || !careful) throw new OneByOne();
      throw new RowRefused({ problem: problem('too-many-changes', { most: mostChanges }) }, false);
    }
    const count = found.rows.length + found.unknown.length;
    if (undoes && kind === 'remove' && count > 0) {
      if (!careful || actions.length > 1) throw new OneByOne();
      const tables = new Set(
        found.rows.flatMap(({ published: { description }, shown }) =>
          shown ? description.title : [],
        ),
      );
      const table = [...tables].join(', ') || 'another table';
      throw new RowRefused({ problem: problem('undo-affects-others', { table }) }, true);
    }
    return found;
  }

  private async write(given: Batch): Promise<readonly RowResult[]> {
    const batch = await this.withTexts(given);
    const { undoes } = this.options;
    const statement = compileBatch(batch, (value) => this.valueOf(value), undoes);
    const { rows, types } = await this.inside.run(statement);
    const { returned } = writtenTable(batch.published);
    const before = [undefined, ...batch.was.map(() => undefined)];
    const columns = batch.kind === 'add' ? returned : [...before, ...returned];
    expectTypes(types, columns, this.options.catalog);
    const results = resultsOf(batch, rows);
    if (results !== undefined) return results;
    // Additions of which a trigger has left out some.
    throw new OneByOne();
  }

  /** Two changes may not be about one row, however its key is spelled. @throws RowRefused, OneByOne */
  private holdTwice({ actions, published }: Batch, results: readonly RowResult[]): void {
    const { name } = published.description;
    const own = new Map<string, number>();
    for (const [index, result] of results.entries()) {
      const action = actions[index];
      if (action === undefined || action.kind === 'add') continue;
      const key = keyReadBy(published, result);
      // A statement that has changed a row does not see it again under another spelling of its key.
      if (key === undefined && actions.length > 1 && hasSpellings(published)) throw new OneByOne();
      if (key === undefined) continue;
      const same = rowName(name, key);
      const other = own.get(same) ?? this.touched.get(same);
      // Rows that match may have been changed by the set before.
      if (other === undefined || this.matchings.has(action.at)) {
        own.set(same, action.at);
        continue;
      }
      if (actions.length > 1 || !this.options.careful) throw new OneByOne();
      throw new RowRefused({ problem: problem('duplicate-row', { other }) }, false);
    }
  }

  /** Notes the rows that followed; gives a result with what the caller sees of that. */
  private async followed(
    { published }: Batch,
    results: readonly RowResult[],
    { rows, unknown }: Followers,
    search: FollowerSearch,
  ): Promise<(result: RowResult, index: number) => RowResult> {
    if (rows.length + unknown.length === 0) return (result) => result;
    const wasDone = ({ root }: { readonly root: number }): boolean =>
      results[root]?.kind === 'done';
    const { name } = published.description;
    const listed = new Set(
      results.flatMap((one) =>
        one.kind === 'done' ? rowName(name, one.keyBefore ?? one.key) : [],
      ),
    );
    // A row that the set names itself is no follower.
    const own = rows.filter(
      (one) => wasDone(one) && !listed.has(rowName(one.published.description.name, one.key)),
    );
    const changed = own.filter(({ kind }) => kind === 'change');
    const after = await search.after(changed, (one) => keyAfter(one, published, results));
    for (const one of own) {
      const now = after.get(one);
      const { kind, columns, key, before, rule } = one;
      if (kind === 'remove') {
        this.gone.set(rowName(one.published.description.name, key), before);
      } else if (now === undefined || JSON.stringify(now) === JSON.stringify(before)) continue;
      const keyNow = now === undefined ? key : keyIn(one.published, readableOf(one.published), now);
      const result = { key: keyNow, keyBefore: key, before, ...(now && { after: now }) };
      this.made.push({ published: one.published, kind, columns, result, rule });
    }
    for (const one of unknown.filter(wasDone)) {
      const result = results[one.root];
      if (result?.kind !== 'done') continue;
      this.made.push({
        published,
        kind: 'remove',
        columns: [],
        result: { key: result.key },
        rule: one.rule,
      });
    }
    const visible = own.filter((one) => one.shown && (one.kind === 'remove' || after.has(one)));
    return (result, index) => {
      if (result.kind !== 'done') return result;
      const follows = countedByTable(visible.filter(({ root }) => root === index));
      return follows.length === 0 ? result : { ...result, follows };
    };
  }

  /**
   * Values that were read from an answer as PostgreSQL's texts: where the row still has what the
   * answer had, the text that it has. The rows are locked, so that they stay as they are.
   */
  private async withTexts(batch: Batch): Promise<Batch> {
    const { actions, was, published } = batch;
    const answered = was.filter(({ name }) =>
      actions.some((action) => action.kind !== 'add' && isAnswered(action.was.get(name))),
    );
    if (answered.length === 0) return batch;
    const keys = actions.map((rowAction) => (rowAction.kind === 'add' ? [] : rowAction.key));
    const { rows } = await this.inside.run(
      compileCurrentRows(writtenTable(published), answered, keys),
    );
    const current = new Map(rows.map(([place, ...texts]) => [Number(place) - 1, texts]));
    const encoders = answered.map(({ type }) => valueEncoder(type));
    const withText = (action: RowAction, index: number): RowAction => {
      if (action.kind === 'add') return action;
      const visible = new Map(action.was);
      for (const [place, { name, type }] of answered.entries()) {
        const value = visible.get(name);
        if (!isAnswered(value)) continue;
        const text = current.get(index)?.[place] ?? null;
        const now = text === null ? 'null' : (encoders[place]?.(text) ?? 'null');
        const stands = isSameAnswer(now, value.answered);
        // Where it is another value, one that the row does not have.
        visible.set(name, { exact: stands ? text : text === null ? emptyOf(type) : null });
      }
      return { ...action, was: visible };
    };
    return { ...batch, actions: actions.map(withText) };
  }

  private note({ published, actions }: Batch, results: readonly RowResult[], note: Note): void {
    for (const [index, result] of results.entries()) {
      const action = actions[index];
      if (action === undefined) continue;
      if (result.kind === 'skipped') {
        const { name: table } = action.table;
        const found = { problem: problem('skipped-by-trigger', { table }) };
        this.refuse(action.at, [placed(action.at, found)]);
        continue;
      }
      note(action, result);
      if (result.kind !== 'done') continue;
      this.noteMade(published, action, result);
      if (result.after === undefined) continue;
      if (action.kind === 'add' && action.ref !== undefined) {
        this.added.set(action.ref, { of: published, row: result.after });
      }
      const rows = this.standing.get(action.table.name) ?? [];
      this.standing.set(action.table.name, rows);
      rows.push({ action, key: result.key });
    }
  }

  private noteMade(published: Published, action: RowAction, result: Done): void {
    const columns =
      action.kind === 'change'
        ? [...action.values.keys()]
        : readableOf(published).map(({ name }) => name);
    this.made.push({ published, kind: action.kind, columns, result, rule: null });
    const { name } = published.description;
    if (action.kind !== 'add' && !this.matchings.has(action.at))
      this.touched.set(rowName(name, result.keyBefore ?? result.key), action.at);
  }

  private valueOf(value: CheckedValue | undefined): string | null {
    if (!isReference(value)) return value ?? null;
    const { of, row } = this.added.get(value.ref) ?? {};
    const place = of?.writing?.readable.findIndex(({ name }) => name === value.column) ?? -1;
    return row?.[place] ?? null;
  }

  private async matching(change: CheckedMatchingChange): Promise<void> {
    const { at, table, match, values } = change;
    const { locate } = this.options.catalog;
    const { key, ...written } = writtenTable(this.published(table.name));
    const pending = async (among?: readonly (readonly string[])[]) =>
      (
        await this.inside.run(
          compileMatchingKeys(table, key, match, mostChanges + 1, locate, among),
        )
      ).rows.map((row) => row.map((text) => text ?? ''));
    const found = await pending();
    if (found.length > mostChanges) {
      this.refuse(at, [
        placed(at, { problem: problem('too-many-changes', { most: mostChanges }) }),
      ]);
      return;
    }
    await this.inside.run(compileLocks({ key, ...written }, found));
    // What matched before it was locked may match no longer.
    const keys = await pending(found);
    if (change.count !== undefined && change.count !== keys.length) {
      this.results.set(at, { kind: 'other-count', count: keys.length });
      return;
    }
    const rows: RowResult[] = [];
    this.matchings.add(at);
    this.results.set(at, { kind: 'rows', rows });
    const actions = keys.map((one): CheckedRowChange => ({
      kind: 'change',
      at,
      table,
      key: one,
      address: printKey(one),
      was: new Map(),
      values,
    }));
    await this.rows(actions, (_action, result) => rows.push(result));
  }

  /** What does not hold with all changes made: rules, and what the caller may see. */
  private async broken(): Promise<LeftOut> {
    const { catalog } = this.options;
    const broken = new Map<number, Problem[]>();
    for (const [name, rows] of this.standing) {
      const published = this.published(name);
      const { description } = published;
      const conditions = [...this.rulesOf(published), ...this.references(published, rows)];
      const ruled = catalog.locate(name).only !== undefined;
      if (!ruled && conditions.length === 0) continue;
      const statement = compileHeldRows(
        description,
        writtenTable(published).key,
        rows.map(({ key }) => key),
        conditions.map(({ condition }) => condition),
        catalog.locate,
      );
      const held = new Map(
        (await this.inside.run(statement)).rows.map(([place, ...tests]) => [
          Number(place) - 1,
          tests,
        ]),
      );
      for (const [index, { action }] of rows.entries()) {
        const tests = held.get(index);
        const found =
          tests === undefined
            ? [{ problem: problem('outside-row-rule', { table: description.title }) }]
            : conditions
                .filter((_condition, place) => tests[place] === 't')
                .map(({ violation }) => violation);
        if (found.length === 0) continue;
        const others = broken.get(action.at) ?? [];
        broken.set(action.at, [...others, ...found.map((one) => placed(action.at, one))]);
      }
    }
    return broken;
  }

  private rulesOf({ description }: Published): readonly Condition[] {
    return rulesOf(description, this.options.catalog.describe).map(
      ({ condition, message, columns = [] }) => ({
        condition,
        violation: { problem: problem('breaks-rule', { message: message }), column: columns[0] },
      }),
    );
  }

  /** Rows that the caller may not see cannot be referred to either. */
  private references(
    { description }: Published,
    rows: readonly { readonly action: RowAction }[],
  ): readonly Condition[] {
    const { catalog } = this.options;
    const written = new Set(
      rows.flatMap(({ action }) => (action.kind === 'remove' ? [] : [...action.values.keys()])),
    );
    return description.relationships.flatMap(({ kind, name, table, columns, references }) => {
      const [column] = columns;
      const [there] = references;
      const hidden = kind === 'one' && catalog.locate(table).only !== undefined;
      if (!hidden || column === undefined || !columns.some((one) => written.has(one))) return [];
      const given = columns.map((one) => not(missing(property(one))));
      const dangling = and([...given, missing(property(`${name}.${there ?? ''}`))]);
      const query = dangling === undefined ? {} : { filter: not(dangling) };
      const read = checkQuery(query, description, { tables: catalog.describe });
      const condition = 'checked' in read ? read.checked.filter : undefined;
      if (condition === undefined) return [];
      return [{ condition, violation: unknownReference(description, columns, undefined) }];
    });
  }

  /** What the database refuses of a single change, at its column. */
  private async violation(
    thrown: Parameters<typeof violationOf>[0],
    batch: Batch,
    action: RowAction,
  ): Promise<Violation> {
    const { published, kind, values } = batch;
    const { catalog } = this.options;
    if (mayBecomeRight.has(thrown.code ?? '') && (await this.isExcluded(batch, action))) {
      return { problem: problem('outside-row-rule', { table: published.description.title }) };
    }
    const titleOf = (schema: string, table: string): string | undefined =>
      titleIfWhole(
        catalog,
        [...catalog.tables.values()].find(
          ({ relation }) => relation.schema === schema && relation.name === table,
        ),
      );
    const violated = { published, kind, titleOf, locate: catalog.locate };
    const found = await violationOf(thrown, violated, this.inside);
    if (found.column !== undefined || found.problem.code !== 'value-refused') return found;
    if (values.length === 1) return { ...found, column: values[0]?.name };
    // Whichever value is none of its column's type.
    const given = action.kind === 'remove' ? undefined : action.values;
    for (const column of values) {
      const text = this.valueOf(given?.get(column.name));
      if (text === null) continue;
      try {
        await this.inside.attempt(() => this.inside.run(compileValueTest(text, column)));
      } catch (refused) {
        if (isRefusal(refused)) return { ...found, column: column.name };
        throw refused;
      }
    }
    return found;
  }
}

function isAnswered(
  value: ExpectedValue | undefined,
): value is Extract<ExpectedValue, { readonly answered: string }> {
  return typeof value === 'object' && value !== null && 'answered' in value;
}

type Done = Extract<RowResult, { kind: 'done' }>;

function rowName(table: string, key: readonly string[]): string {
  return JSON.stringify([table, key]);
}

function restore<Key, Member>(
  map: Map<Key, Member>,
  before: ReadonlyMap<Key, Member> = new Map(),
): void {
  map.clear();
  for (const [key, member] of before) map.set(key, member);
}

/** The key of the row that a result is about, as the database wrote it. */
function keyReadBy(published: Published, result: RowResult): readonly string[] | undefined {
  if (result.kind !== 'conflict') return result.keyBefore;
  return result.now && keyIn(published, readableOf(published), result.now);
}

/** Whether a key may be written in several ways. */
function hasSpellings({ description: { key, columns } }: Published): boolean {
  return key.some((name) => {
    const kind = columns.find((column) => column.name === name)?.type.kind;
    return kind !== 'integer' && kind !== 'uuid' && kind !== 'enum' && kind !== 'boolean';
  });
}

/** The key of a row that followed: with the values that the row it refers to has now. */
function keyAfter(
  { published, root, rule, key, columns }: Follower,
  parent: Published,
  results: readonly RowResult[],
): readonly string[] {
  const result = results[root];
  if (rule !== 'update cascade' || result?.kind !== 'done' || result.after === undefined)
    return key;
  const references = parent.description.relationships.find(
    ({ kind, table, references: own }) =>
      kind === 'many' &&
      table === published.description.name &&
      own.join(',') === columns.join(','),
  );
  const row = result.after;
  const readable = readableOf(parent);
  return published.description.key.map((name, index) => {
    const there = references?.columns[columns.indexOf(name)];
    const place = readable.findIndex((column) => column.name === there);
    return (columns.includes(name) ? row[place] : undefined) ?? key[index] ?? '';
  });
}

/** How many rows of each table follow, and how. */
function countedByTable(rows: readonly Follower[]): readonly FollowedRows[] {
  const counts = new Map<string, FollowedRows>();
  for (const { published, kind } of rows) {
    const table = published.description.name;
    const same = `${kind} ${table}`;
    counts.set(same, { table, kind, count: (counts.get(same)?.count ?? 0) + 1 });
  }
  return [...counts.values()];
}

/** A value that is not null, of a type whose answers are not PostgreSQL's whole text. */
function emptyOf({ kind }: ColumnType): string {
  return kind === 'array' ? '{}' : '0';
}

interface Condition {
  readonly condition: CheckedExpression;
  readonly violation: Violation;
}

function placed(change: number, { problem: one, column }: Violation): Problem {
  return { ...one, change, ...(column === undefined ? {} : { column }) };
}
