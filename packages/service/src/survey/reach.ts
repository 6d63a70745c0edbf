import { sortSignature, type Beside, type CheckedQuery } from '@ephoros/core/check';
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
} from '@ephoros/core/sql';
import { approach, type Approach } from '@ephoros/core/window';
import type { Database } from '../run/index.ts';
import type { Counting, Surveying, Surveyor } from './question.ts';

/** Rows that are passed over without any ado: it takes a few ms. */
const near = 2_000;
/** Rows between mileposts, where there are many rows, and how many posts there shall be. */
const widestStep = 1_000;
const wantedPosts = 2_000;
/** The same where nothing may be known of how many rows there are. */
const cautiousStep = 50;

/** How a window was come to. */
export interface Way extends Approach {
  /** Whether the row before the window was looked for first, by its sort values alone. */
  readonly edge: boolean;
}

/** The query to walk instead of the one that was asked, and why. */
export interface Reached {
  /** Undefined where the window lies past the end. */
  readonly walked: CheckedQuery | undefined;
  readonly way: Way;
}

/** What the way to a window needs to know and to ask. */
export interface Ground {
  readonly surveyor: Surveyor;
  readonly database: Database;
  readonly relations: Relations;
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
    key: `${count.text}\0${JSON.stringify(count.parameters)}`,
    count,
    estimate: compileEstimate(query, relations),
    written: compileWritten(tables, relations),
  };
}

/** The rows of a query in their order, to have mileposts set. Its table has a key. */
export async function surveyingOf(
  query: CheckedQuery,
  { surveyor, relations, ruled }: Omit<Ground, 'database'>,
): Promise<Surveying> {
  const counting = countingOf(query, relations);
  const total = await surveyor.total(counting, ruled ? 'exact' : 'estimate', 0);
  const known = ruled && total?.kind !== 'exact' ? undefined : total?.rows;
  const guess = ruled ? cautiousStep * wantedPosts : (query.table.estimatedRows ?? Infinity);
  const step = Math.max(1, Math.min(widestStep, Math.floor((known ?? guess) / wantedPosts)));
  const bare: CheckedQuery = { ...query, columns: [], beside: undefined };
  const { tables } = withTables((recording) => compileRows(bare, recording), relations);
  return {
    counting,
    key: surveyKey(query, counting.key),
    step,
    mileposts: compileMileposts(query, step, relations),
    written: compileWritten(tables, relations),
  };
}

/** The same for the same rows in the same order, as long as the sort's columns have their types. */
export function surveyKey({ sort }: CheckedQuery, countKey: string): string {
  const types = sort.map(({ column }) => column.type);
  return `${sortSignature(sort)}\0${JSON.stringify(types)}\0${countKey}`;
}

/**
 * The cheapest way to a window: by offset near the beginning, else from the nearest milepost or
 * the nearer end. The first deep look at a result has its mileposts set in the background.
 * @throws Failure
 */
export async function reach(
  query: CheckedQuery,
  ground: Ground,
  signal: AbortSignal,
): Promise<Reached> {
  const { offset, limit, beside, table } = query;
  const asked: Reached = {
    walked: query,
    way: { from: 'start', skip: offset, limit, edge: false },
  };
  if (beside !== undefined || offset <= near || table.key.length === 0) return asked;
  const { surveyor, relations } = ground;
  const counting = countingOf(query, relations);
  const key = surveyKey(query, counting.key);
  const { surveyed, post, total } = await surveyor.places(key, counting.key, offset);
  if (!surveyed) {
    await surveyor.begin(await surveyingOf(query, ground));
  }
  const way = approach(offset, limit, { post: post?.number, total });
  const place: Beside | undefined =
    way.from === 'end'
      ? { kind: 'end' }
      : way.from === 'post' && post !== undefined
        ? { kind: 'after', values: post.values }
        : undefined;
  const walked: CheckedQuery = { ...query, beside: place, offset: way.skip, limit: way.limit };
  const direct = { walked, way: { ...way, edge: false } };
  if (way.skip <= near) return direct;
  const bare: CheckedQuery = { ...walked, columns: [], offset: way.skip - 1, limit: 1 };
  if (!(await isCheaper(bare, walked, ground, signal))) return direct;
  const found = await ground.database.run(compileRows(bare, relations), {
    signal,
    table: table.name,
  });
  const [values] = found.rows;
  const kind = way.from === 'end' ? 'before' : 'after';
  return {
    walked: values && { ...walked, beside: { kind, values }, offset: 0 },
    way: { ...way, edge: true },
  };
}

/**
 * Whether it pays to walk the sort values alone first, and from there to the window: where an
 * index gives both the order and the values, so that the rows passed over are not read at all.
 */
async function isCheaper(
  bare: CheckedQuery,
  walked: CheckedQuery,
  { database, relations }: Ground,
  signal: AbortSignal,
): Promise<boolean> {
  const [lean, whole] = await Promise.all(
    [bare, walked].map(async (query) => {
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
