import {
  sortSignature,
  type CheckedExpression,
  type CheckedQuery,
  type CheckedScalar,
} from '@ephoros/core/check';
import {
  compileCount,
  compileEstimate,
  compileMileposts,
  compilePlaces,
  compilePlacesCopy,
  compileRows,
  compileChunks,
  compileWritten,
  keyColumns,
  withTables,
  type Relations,
  type Statement,
} from '@ephoros/core/sql';
import { statementName } from '../run/index.ts';
import { placeKindsOf } from './place-codec.ts';
import type { Counting, IndexedOrder, PositionIndex } from './position-index.ts';

/** Rows between mileposts, where there are many rows, and how many samples there shall be. */
const widestStep = 1_000;
const wantedSamples = 2_000;
/** The same where nothing may be known of how many rows there are. */
const cautiousStep = 50;

/** Characters of a bound value, or values of a list, that chunks are cut with. */
const mostBound = 10_000;
/** What orders are made by. */
export interface Positions {
  readonly positions: PositionIndex;
}

/** What of a caller's catalog. */
export interface Seen {
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
  { positions }: Positions,
  { locate: relations, ruled }: Seen,
): Promise<IndexedOrder> {
  const counting = countingOf(query, relations);
  const total = await positions.total(counting, ruled ? 'exact' : 'estimate', 0);
  const known = ruled && total?.kind !== 'exact' ? undefined : total?.rows;
  const guess = ruled ? cautiousStep * wantedSamples : (query.table.estimatedRows ?? Infinity);
  const step = Math.max(1, Math.min(widestStep, Math.floor((known ?? guess) / wantedSamples)));
  const bare: CheckedQuery = { ...query, columns: [], anchor: undefined };
  const { tables } = withTables((recording) => compileRows(bare, recording), relations);
  const rows = known ?? (ruled ? undefined : (query.table.estimatedRows ?? undefined));
  const places = await placesOf(query, { positions }, { locate: relations, ruled });
  return {
    counting,
    key: orderKey(query, counting.key),
    step,
    mileposts: compileMileposts(query, step, relations),
    ...(known === undefined && step > 1
      ? { fine: compileMileposts(query, 1, relations).pass }
      : {}),
    written: compileWritten(tables, relations),
    first: compileRows({ ...bare, offset: 0, limit: 100 }, relations),
    ...(rows === undefined ? {} : { rows }),
    ...(places === undefined ? {} : { places }),
  };
}

async function placesOf(
  query: CheckedQuery,
  known: Positions,
  request: Seen,
): Promise<IndexedOrder['places']> {
  const kinds = placeKindsOf(keyColumns(query));
  if (kinds === undefined) return undefined;
  const { locate: relations } = request;
  const [sort, copy] = [compilePlaces(query, relations), compilePlacesCopy(query, relations)];
  const { filter, search, ...all } = query;
  if ((filter === undefined && search === undefined) || !isLedByIndex(query))
    return { kinds, sort, copy };
  const templates = compileChunks(query, relations);
  // What names very many rows would have to be sent with every chunk.
  const isLong = sort.parameters.some((one) => typeof one !== 'number' && one.length > mostBound);
  if (templates === undefined || isLong) return { kinds, sort, copy };
  const along = await indexedOrderOf(all, known, request);
  return { kinds, sort, copy, chunks: { along, templates } };
}

/** Whether an index leads with what the rows are sorted by. */
export function isLedByIndex({ sort: [leading] }: Pick<CheckedQuery, 'sort'>): boolean {
  return leading !== undefined && leading.column.indexed && leading.column.path.length === 0;
}

const rangeComparators: ReadonlySet<string> = new Set(['=', '<', '<=', '>', '>=']);

/**
 * Whether all that rows have to meet is a range of what they are sorted by: the index that gives the order begins
 * with the first of them, and no row is passed over.
 */
export function isRangeOfOrder({
  filter,
  search,
  sort: [leading],
}: Pick<CheckedQuery, 'filter' | 'search' | 'sort'>): boolean {
  const isLeading = (one: CheckedScalar): boolean =>
    one.kind === 'column' && one.column.name === leading?.column.name;
  const isRange = (one: CheckedExpression): boolean => {
    switch (one.kind) {
      case 'and':
        return one.operands.every(isRange);
      case 'comparison': {
        const { comparator, left, right } = one;
        const isBound =
          (isLeading(left) && right.kind === 'value') ||
          (isLeading(right) && left.kind === 'value');
        return isBound && rangeComparators.has(comparator);
      }
      case 'between':
        return isLeading(one.operand) && one.low.kind === 'value' && one.high.kind === 'value';
      default:
        return false;
    }
  };
  return search === undefined && filter !== undefined && isRange(filter);
}

/** Asks how much has been written to the tables that a query reads. */
export function writtenTo(query: CheckedQuery, relations: Relations): Statement {
  return compileWritten(tablesOf(query, relations), relations);
}

/** The same of the further tables alone: related ones, and those of row rules; undefined where there are none. */
export function writtenMeanwhile(query: CheckedQuery, relations: Relations): Statement | undefined {
  const others = tablesOf(query, relations).filter((name) => name !== query.table.name);
  return others.length === 0 ? undefined : compileWritten(others, relations);
}

/** The tables that the rows of a query are read from. */
function tablesOf(query: CheckedQuery, relations: Relations): readonly string[] {
  const { tables } = withTables(
    (recording) => compileRows({ ...query, anchor: undefined }, recording),
    relations,
  );
  return tables;
}

/** The same for the same rows in the same order, as long as the sort's columns have their types. */
export function orderKey({ sort }: CheckedQuery, countKey: string): string {
  const types = sort.map(({ column }) => column.type);
  return `${sortSignature(sort)}\0${JSON.stringify(types)}\0${countKey}`;
}
