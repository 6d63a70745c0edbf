import {
  sortSignature,
  type CheckedQuery,
  type CheckedSortTerm,
  type CheckedWindow,
} from '../check/index.ts';
import { printCursor } from '../query/index.ts';
import type { ColumnType } from '../schema/index.ts';
import { Evaluator, type MemoryRow } from './evaluate.ts';
import { byCodePoint, type TextOrder } from './text-order.ts';
import { compareComputed, compute, type Computed } from './value.ts';

export type { MemoryRow } from './evaluate.ts';

export interface MemoryOptions {
  /** How texts are compared; by code point, as in the collation "C", by default. */
  readonly textOrder?: TextOrder;
  /** The rows of other tables, for related columns and HAS and COUNT; none by default. */
  readonly rowsOf?: (table: string) => readonly MemoryRow[];
}

export interface MemoryAnswer {
  /** The window's rows, each with the query's columns. */
  readonly rows: readonly MemoryRow[];
  /** How many rows match. */
  readonly total: number;
  readonly next: string | null;
  readonly previous: string | null;
}

/** Answers a query from an array of rows, as the service would from a table that holds them. */
export function queryRows(
  query: CheckedQuery,
  rows: readonly MemoryRow[],
  options: MemoryOptions = {},
): MemoryAnswer {
  return arrangeRows(query, rows, options)(query);
}

/**
 * Finds and sorts the rows of a query once; what comes back answers any window of it, with any of
 * its columns.
 */
export function arrangeRows(
  query: CheckedQuery,
  rows: readonly MemoryRow[],
  { textOrder = byCodePoint, rowsOf = () => [] }: MemoryOptions = {},
): (window: CheckedQuery) => MemoryAnswer {
  const evaluator = new Evaluator(textOrder, rowsOf);
  const { sort, table } = query;
  const matching = evaluator.matching(query, rows);
  const placed = matching.map((row) => ({
    row,
    at: sort.map(({ column }) => evaluator.column(column, row)),
  }));
  const orders = sort.map(() => textOrder);
  placed.sort((one, other) => comparePlaces(one.at, other.at, sort, orders));
  const places = placed.map(({ at }) => at);
  const cursor = ({ row }: { row: MemoryRow }): string => {
    const values = sort.map(({ column }) =>
      notation(evaluator.raw(column.path, column.own, row), column.type),
    );
    return printCursor({ sort: sortSignature(sort), values });
  };
  return (wanted) => {
    const { first, end } = windowOf(wanted, places, orders);
    const window = placed.slice(first, end);
    const [head] = window;
    const last = window.at(-1);
    const keyed = table.key.length > 0 && wanted.limit > 0;
    return {
      rows: window.map(({ row }) =>
        Object.fromEntries(
          wanted.columns.map(({ name, path, own }) => [name, evaluator.raw(path, own, row)]),
        ),
      ),
      total: matching.length,
      next: keyed && last !== undefined && end < placed.length ? cursor(last) : null,
      previous: keyed && head !== undefined && first > 0 ? cursor(head) : null,
    };
  };
}

export type Place = readonly (Computed | null)[];

/** The rows of the window, as positions among the sorted ones. */
export function windowOf(
  { anchor, sort, offset, limit }: CheckedWindow,
  places: readonly Place[],
  orders: readonly TextOrder[],
): { first: number; end: number } {
  const from = (first: number): { first: number; end: number } => ({
    first: first + offset,
    end: Math.min(places.length, first + offset + limit),
  });
  const upTo = (reached: number): { first: number; end: number } => {
    const end = Math.max(0, reached - offset);
    return { first: Math.max(0, end - limit), end };
  };
  if (anchor === undefined) return from(0);
  if (anchor.kind === 'end') return upTo(places.length);
  const at = anchor.values.map((value, index) => {
    const type = sort[index]?.column.type;
    return type === undefined ? null : compute(fromNotation(value, type), type);
  });
  if (anchor.kind === 'after') {
    const behind = places.findIndex((place) => comparePlaces(place, at, sort, orders) > 0);
    return from(behind === -1 ? places.length : behind);
  }
  const reached = places.findIndex((place) => comparePlaces(place, at, sort, orders) >= 0);
  return upTo(reached === -1 ? places.length : reached);
}

export function comparePlaces(
  one: Place,
  other: Place,
  sort: readonly CheckedSortTerm[],
  orders: readonly TextOrder[],
): number {
  for (let index = 0; index < sort.length; index += 1) {
    const term = sort[index];
    if (term === undefined) continue;
    const a = one[index] ?? null;
    const b = other[index] ?? null;
    if (a === null || b === null) {
      if (a === b) continue;
      return (a === null) === (term.nulls === 'last') ? 1 : -1;
    }
    const difference = compareComputed(a, b, orders[index] ?? byCodePoint);
    if (difference !== 0) return term.descending ? -difference : difference;
  }
  return 0;
}

/** A value of a row as a cursor holds it: as PostgreSQL would write it, lists as JSON. */
export function notation(value: unknown, type: ColumnType): string | null {
  if (value === null || value === undefined) return null;
  const text = typeof value === 'string' ? value : JSON.stringify(value);
  if (type.kind === 'boolean') return text === 'true' ? 't' : 'f';
  if (type.kind === 'timestamp') return text.replace('T', ' ').replace('Z', '+00');
  return text;
}

function fromNotation(value: string | null, type: ColumnType): unknown {
  return value !== null && type.kind === 'array' ? (JSON.parse(value) as unknown) : value;
}
