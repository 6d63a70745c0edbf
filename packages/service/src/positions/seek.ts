import { sortSignature, type Anchor, type CheckedQuery } from '@ephoros/core/check';
import {
  compileCount,
  compileEstimate,
  compileMileposts,
  compilePlan,
  compileRows,
  compileWritten,
  readPlan,
  withTables,
  type PlanNode,
  type Relations,
  type Statement,
} from '@ephoros/core/sql';
import { approach, type Approach } from '@ephoros/core/window';
import { statementName } from '../run/index.ts';
import type { Database } from '../run/index.ts';
import type { Counting, IndexedOrder, PositionIndex } from './position-index.ts';

/** Rows that are passed over without any ado: it takes a few ms. */
const near = 2_000;
/** Rows between mileposts, where there are many rows, and how many samples there shall be. */
const widestStep = 1_000;
const wantedSamples = 2_000;
/** The same where nothing may be known of how many rows there are. */
const cautiousStep = 50;

/** How a window was come to. */
export interface Way extends Omit<Approach, 'from'> {
  /** The same, or the remembered keys of selected rows. */
  readonly from: Approach['from'] | 'places';
  /** Whether the row before the window was looked for first, by its sort values alone. */
  readonly edge: boolean;
}

/** The query to walk instead of the one that was asked, and why. */
export interface SeekPlan {
  /** Undefined where the window lies past the end. */
  readonly query: CheckedQuery | undefined;
  readonly way: Way;
}

/** What of a database the way to a window is found by. */
interface Known {
  readonly database: Database;
  readonly positions: PositionIndex;
}

/** What of a caller's catalog. */
interface Seen {
  readonly locate: Relations;
  /** Whether there are rows that the caller may not see: the planner's guesses tell of them. */
  readonly ruled: boolean;
}

/** The rows of a query, to be counted. */
export function countingOf(query: CheckedQuery, relations: Relations): Counting {
  const { made: count, tables } = withTables(
    (recording) => compileCount(query, recording),
    relations,
  );
  return {
    key: statementName(count),
    count,
    estimate: compileEstimate(query, relations),
    written: compileWritten(tables, relations),
  };
}

/** The rows of a query in their order, to have mileposts set. Its table has a key. */
export async function indexedOrderOf(
  query: CheckedQuery,
  { positions }: Pick<Known, 'positions'>,
  { locate: relations, ruled }: Seen,
): Promise<IndexedOrder> {
  const counting = countingOf(query, relations);
  const total = await positions.total(counting, ruled ? 'exact' : 'estimate', 0);
  const known = ruled && total?.kind !== 'exact' ? undefined : total?.rows;
  const guess = ruled ? cautiousStep * wantedSamples : (query.table.estimatedRows ?? Infinity);
  const step = Math.max(1, Math.min(widestStep, Math.floor((known ?? guess) / wantedSamples)));
  const bare: CheckedQuery = { ...query, columns: [], anchor: undefined };
  const { tables } = withTables((recording) => compileRows(bare, recording), relations);
  return {
    counting,
    key: orderKey(query, counting.key),
    step,
    mileposts: compileMileposts(query, step, relations),
    written: compileWritten(tables, relations),
  };
}

/** Asks how much has been written to the tables that a query reads. */
export function writtenTo(query: CheckedQuery, relations: Relations): Statement {
  const { tables } = withTables(
    (recording) => compileRows({ ...query, anchor: undefined }, recording),
    relations,
  );
  return compileWritten(tables, relations);
}

/** The same for the same rows in the same order, as long as the sort's columns have their types. */
export function orderKey({ sort }: CheckedQuery, countKey: string): string {
  const types = sort.map(({ column }) => column.type);
  return `${sortSignature(sort)}\0${JSON.stringify(types)}\0${countKey}`;
}

/**
 * The cheapest way to a window: by offset near the beginning, else from the nearest milepost or
 * the nearer end. The first deep look at a result has its mileposts set in the background.
 * @throws Failure
 */
export async function seek(
  query: CheckedQuery,
  known: Known,
  seen: Seen,
  signal: AbortSignal,
): Promise<SeekPlan> {
  const { offset, limit, anchor, table } = query;
  const asked: SeekPlan = {
    query,
    way: { from: 'start', skip: offset, limit, edge: false },
  };
  if (anchor !== undefined || offset <= near || table.key.length === 0) return asked;
  const { positions, database } = known;
  const { locate: relations } = seen;
  const counting = countingOf(query, relations);
  const key = orderKey(query, counting.key);
  const { indexed, sample, total } = await positions.places(key, counting.key, offset);
  if (!indexed) {
    await positions.begin(await indexedOrderOf(query, known, seen));
  }
  const way = approach(offset, limit, { milepost: sample?.number, total });
  const place: Anchor | undefined =
    way.from === 'end'
      ? { kind: 'end' }
      : way.from === 'milepost' && sample !== undefined
        ? { kind: 'after', values: sample.values }
        : undefined;
  const sought: CheckedQuery = { ...query, anchor: place, offset: way.skip, limit: way.limit };
  const direct = { query: sought, way: { ...way, edge: false } };
  if (way.skip <= near) return direct;
  const bare: CheckedQuery = { ...sought, columns: [], offset: way.skip - 1, limit: 1 };
  if (!(await isCheaper(bare, sought, database, relations, signal))) return direct;
  const found = await database.run(compileRows(bare, relations), {
    signal,
    table: table.name,
  });
  const [values] = found.rows;
  const kind = way.from === 'end' ? 'before' : 'after';
  return {
    query: values && { ...sought, anchor: { kind, values }, offset: 0 },
    way: { ...way, edge: true },
  };
}

/**
 * Whether it pays to walk the sort values alone first, and from there to the window: where an
 * index gives both the order and the values, so that the rows passed over are not read at all.
 */
async function isCheaper(
  bare: CheckedQuery,
  sought: CheckedQuery,
  database: Database,
  relations: Relations,
  signal: AbortSignal,
): Promise<boolean> {
  const [lean, whole] = await Promise.all(
    [bare, sought].map(async (query) => {
      const planning = compilePlan(compileRows(query, relations));
      const { rows } = await database.run(planning, { signal, table: query.table.name });
      return readPlan(rows[0]?.[0]);
    }),
  );
  if (lean === undefined || whole === undefined) return false;
  return !sorts(lean) && lean['Total Cost'] < whole['Total Cost'] * 0.8;
}

function sorts({ 'Node Type': type, Plans = [] }: PlanNode): boolean {
  return type.includes('Sort') || Plans.some(sorts);
}
