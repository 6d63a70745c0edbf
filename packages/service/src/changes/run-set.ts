import {
  deedNotAllowed,
  mostChanges,
  rulesOf,
  type CheckedChange,
  type CheckedMatchingChange,
  type CheckedRowChange,
  type CheckedValue,
} from '@ephoros/core/change';
import { checkQuery, type CheckedExpression } from '@ephoros/core/check';
import { and, missing, not, property } from '@ephoros/core/expression';
import { problem, type Problem } from '@ephoros/core/problem';
import { printKey } from '@ephoros/core/schema';
import {
  compileHeldRows,
  compileLocks,
  compileMatchingKeys,
  compileValueTest,
} from '@ephoros/core/sql';
import type { Catalog, Published } from '../catalog/index.ts';
import { expectTypes } from '../encode/index.ts';
import { mostProblems } from '../question/index.ts';
import {
  batchesOf,
  compileBatch,
  isReference,
  resultsOf,
  writtenTable,
  type Batch,
  type RowDeed,
  type RowResult,
} from './batch.ts';
import { violationOf, type Violation } from './violations.ts';
import { isRefusal, type TextRow, type Transaction } from './writer.ts';

/** What has become of one change of a set. */
export type Result =
  | RowResult
  | { readonly kind: 'refused'; readonly problems: readonly Problem[] }
  /** Of a change of matching rows: each of them; or how many there are, where that is not as told. */
  | { readonly kind: 'rows'; readonly rows: readonly RowResult[] }
  | { readonly kind: 'other-count'; readonly count: number };

/** Changes by their place in the set that are left out, and why. */
export type LeftOut = ReadonlyMap<number, readonly Problem[]>;

export interface SetRun {
  /** By the place of the change in its set; of what came behind a hundred mistakes there is none. */
  readonly results: ReadonlyMap<number, Result>;
  /** What shows only with all changes made: to be left out from the beginning. */
  readonly broken: LeftOut;
}

export interface RunOptions {
  /** What the caller may see: by it rows are found, and held against rules. */
  readonly catalog: Catalog;
  /** Whether what the database refuses is looked for, change by change; else the first one ends it. */
  readonly careful: boolean;
  readonly leftOut: LeftOut;
  /** Whether rows are put back as they were, with the numbers that the database had given them. */
  readonly asTheyWere: boolean;
}

/** Additions of one statement that cannot be told from each other. */
export class Mingled extends Error {}

/** Makes the changes of a set. @throws Failure; unless it is careful, Mingled and what the database refuses */
export function runSet(
  changes: readonly CheckedChange[],
  inside: Transaction,
  options: RunOptions,
): Promise<SetRun> {
  return new SetRunner(inside, options).run(changes);
}

type Note = (deed: RowDeed, result: RowResult) => void;

class SetRunner {
  private readonly inside: Transaction;
  private readonly options: RunOptions;
  private readonly results = new Map<number, Result>();
  /** The new rows that others may refer to, by name. */
  private readonly added = new Map<string, { readonly of: Published; readonly row: TextRow }>();
  /** The rows that are there after all, by their tables. */
  private readonly standing = new Map<
    string,
    { readonly deed: RowDeed; readonly key: readonly string[] }[]
  >();
  private mistakes = 0;

  constructor(inside: Transaction, options: RunOptions) {
    this.inside = inside;
    this.options = options;
  }

  async run(changes: readonly CheckedChange[]): Promise<SetRun> {
    let deeds: RowDeed[] = [];
    const note: Note = ({ at }, result) => this.results.set(at, result);
    for (const change of changes) {
      const reasons = this.options.leftOut.get(change.at);
      if (reasons !== undefined) this.refuse(change.at, reasons);
      else if (change.kind === 'set') {
        await this.rows(deeds, note);
        deeds = [];
        await this.matching(change);
      } else deeds.push(change);
    }
    await this.rows(deeds, note);
    return { results: this.results, broken: await this.broken() };
  }

  private async rows(deeds: readonly RowDeed[], note: Note): Promise<void> {
    for (const batch of batchesOf(deeds, (table) => this.published(table))) {
      await this.batch(await this.inSight(this.withoutLost(batch), note), note);
    }
  }

  private published(table: string): Published {
    const found = this.options.catalog.tables.get(table);
    if (found === undefined) throw new Error(`no table ${table} is published`);
    return found;
  }

  private refuse(at: number, problems: readonly Problem[]): void {
    this.results.set(at, { kind: 'refused', problems });
    this.mistakes += problems.length;
  }

  private async batch(batch: Batch, note: Note): Promise<void> {
    const { deeds } = batch;
    // Nobody reads more mistakes than these.
    if (deeds.length === 0 || this.mistakes >= mostProblems) return;
    if (!this.options.careful) {
      this.note(batch, await this.write(batch), note);
      return;
    }
    try {
      this.note(batch, await this.inside.attempt(() => this.write(batch)), note);
    } catch (thrown) {
      if (!(thrown instanceof Mingled) && !isRefusal(thrown)) throw thrown;
      const [only] = deeds;
      if (only !== undefined && deeds.length === 1) {
        const found = isRefusal(thrown)
          ? await this.violation(thrown, batch, only)
          : { problem: problem('skipped-by-trigger', { table: only.table.name }) };
        this.refuse(only.at, [placed(only.at, found)]);
        return;
      }
      const half = Math.ceil(deeds.length / 2);
      await this.batch({ ...batch, deeds: deeds.slice(0, half) }, note);
      await this.batch({ ...batch, deeds: deeds.slice(half) }, note);
    }
  }

  /** Without changes that refer to rows which could not be added. */
  private withoutLost(batch: Batch): Batch {
    const deeds = batch.deeds.filter((deed) => {
      for (const [column, value] of deed.kind === 'remove' ? [] : deed.values) {
        if (!isReference(value) || this.added.has(value.ref)) continue;
        const found = { problem: problem('unknown-ref', { ref: value.ref }), column };
        this.refuse(deed.at, [placed(deed.at, found)]);
        return false;
      }
      return true;
    });
    return { ...batch, deeds };
  }

  /**
   * Without changes of rows that there are not for the caller: for the caller they are gone. The rows
   * are locked first, so that none comes into sight or goes out of it meanwhile.
   */
  private async inSight(batch: Batch, note: Note): Promise<Batch> {
    const { kind, published, deeds } = batch;
    const { description } = published;
    const { locate, changing } = this.options.catalog;
    if (kind === 'add' || locate(description.name).only === undefined) return batch;
    const keys = deeds.map((deed) => (deed.kind === 'add' ? [] : deed.key));
    const table = writtenTable(published);
    if (table.locks) await this.inside.run(compileLocks(table, keys));
    const { rows } = await this.inside.run(
      compileHeldRows(description, table.key, keys, [], locate),
    );
    const seen = new Set(rows.map(([place]) => Number(place) - 1));
    for (const [index, deed] of deeds.entries()) {
      if (seen.has(index)) continue;
      // A row may be seen and not be the caller's to change: then it is not said to be gone.
      if (changing === undefined) note(deed, { kind: 'conflict', differing: [] });
      else {
        const problem = deedNotAllowed(kind, description.name);
        this.refuse(deed.at, [placed(deed.at, { problem })]);
      }
    }
    return { ...batch, deeds: deeds.filter((_deed, index) => seen.has(index)) };
  }

  private async write(batch: Batch): Promise<readonly RowResult[]> {
    const statement = compileBatch(batch, (value) => this.valueOf(value), this.options.asTheyWere);
    const { rows, types } = await this.inside.run(statement);
    const { returned } = writtenTable(batch.published);
    const before = [undefined, ...batch.was.map(() => undefined)];
    const columns = batch.kind === 'add' ? returned : [...before, ...returned];
    expectTypes(types, columns, this.options.catalog);
    const results = resultsOf(batch, rows);
    if (results === undefined) throw new Mingled();
    return results;
  }

  private note({ published, deeds }: Batch, results: readonly RowResult[], note: Note): void {
    for (const [index, result] of results.entries()) {
      const deed = deeds[index];
      if (deed === undefined) continue;
      if (result.kind === 'skipped') {
        const { name: table } = deed.table;
        const found = { problem: problem('skipped-by-trigger', { table }) };
        this.refuse(deed.at, [placed(deed.at, found)]);
        continue;
      }
      note(deed, result);
      if (result.kind !== 'done' || result.after === undefined) continue;
      if (deed.kind === 'add' && deed.ref !== undefined) {
        this.added.set(deed.ref, { of: published, row: result.after });
      }
      const rows = this.standing.get(deed.table.name) ?? [];
      this.standing.set(deed.table.name, rows);
      rows.push({ deed, key: result.key });
    }
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
    const asked = async (among?: readonly (readonly string[])[]) =>
      (
        await this.inside.run(
          compileMatchingKeys(table, key, match, mostChanges + 1, locate, among),
        )
      ).rows.map((row) => row.map((text) => text ?? ''));
    const found = await asked();
    if (found.length > mostChanges) {
      this.refuse(at, [
        placed(at, { problem: problem('too-many-changes', { most: mostChanges }) }),
      ]);
      return;
    }
    await this.inside.run(compileLocks({ key, ...written }, found));
    // What matched before it was locked may match no longer.
    const keys = await asked(found);
    if (change.count !== undefined && change.count !== keys.length) {
      this.results.set(at, { kind: 'other-count', count: keys.length });
      return;
    }
    const rows: RowResult[] = [];
    this.results.set(at, { kind: 'rows', rows });
    const deeds = keys.map((one): CheckedRowChange => ({
      kind: 'change',
      at,
      table,
      key: one,
      address: printKey(one),
      was: new Map(),
      values,
    }));
    await this.rows(deeds, (_deed, result) => rows.push(result));
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
      for (const [index, { deed }] of rows.entries()) {
        const tests = held.get(index);
        const found =
          tests === undefined
            ? [{ problem: problem('outside-rule', { table: description.title }) }]
            : conditions
                .filter((_condition, place) => tests[place] === 't')
                .map(({ told }) => told);
        if (found.length === 0) continue;
        const others = broken.get(deed.at) ?? [];
        broken.set(deed.at, [...others, ...found.map((one) => placed(deed.at, one))]);
      }
    }
    return broken;
  }

  private rulesOf({ description }: Published): readonly Condition[] {
    return rulesOf(description, this.options.catalog.describe).map(
      ({ condition, message, columns = [] }) => ({
        condition,
        told: { problem: problem('breaks-rule', { told: message }), column: columns[0] },
      }),
    );
  }

  /** Rows that the caller may not see cannot be referred to either. */
  private references(
    { description }: Published,
    rows: readonly { readonly deed: RowDeed }[],
  ): readonly Condition[] {
    const { catalog } = this.options;
    const written = new Set(
      rows.flatMap(({ deed }) => (deed.kind === 'remove' ? [] : [...deed.values.keys()])),
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
      const names = description.columns.find((one) => one.name === column)?.label ?? column;
      return [{ condition, told: { problem: problem('unknown-reference', { names }), column } }];
    });
  }

  /** What the database refuses of a single change, at its column. */
  private async violation(
    thrown: Parameters<typeof violationOf>[0],
    { published, kind, values }: Batch,
    deed: RowDeed,
  ): Promise<Violation> {
    const { tables } = this.options.catalog;
    const titleOf = (schema: string, table: string): string | undefined =>
      [...tables.values()].find(
        ({ relation }) => relation.schema === schema && relation.name === table,
      )?.description.title;
    const found = await violationOf(thrown, { published, kind, titleOf }, this.inside);
    if (found.column !== undefined || found.problem.code !== 'value-refused') return found;
    if (values.length === 1) return { ...found, column: values[0]?.name };
    // Whichever value is none of its column's type.
    const given = deed.kind === 'remove' ? undefined : deed.values;
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

interface Condition {
  readonly condition: CheckedExpression;
  readonly told: Violation;
}

function placed(change: number, { problem: one, column }: Violation): Problem {
  return { ...one, change, ...(column === undefined ? {} : { column }) };
}
