import type { CheckedColumn, CheckedQuery } from '../check/index.ts';
import { sql, type SQL } from './fragment.ts';
import { termsAlong } from './keyset-order.ts';
import { cursorColumns, cutWhereLong, mayBeCut, order } from './keyset.ts';
import { Scope, type Relations } from './scope.ts';

/** Rows of a window at most whose columns are looked up late: they are put in order once more. */
const most = 10_000;

/** A query in two steps: which rows are its window, and what is shown of them. */
export interface DeferredJoins {
  /** The query whose window these rows are: of the table's own columns what the further step needs. */
  readonly rows: CheckedQuery;
  /** The rows as the query itself selects them, in their order, from a SELECT of the window of `rows`. */
  readonly shown: (window: SQL) => SQL;
}

/**
 * How columns are left for when a window's rows are known: those of related tables that nothing is sorted by, and
 * long values that are cut. PostgreSQL would join and cut all rows before it sorts them. Undefined where there are none,
 * or where the window is very long.
 */
export function deferredJoins(
  query: CheckedQuery,
  relations: Relations,
): DeferredJoins | undefined {
  const { columns, table, sort, limit } = query;
  const sorted = new Set(sort.map(({ column }) => column.name));
  const isLate = ({ name, path }: CheckedColumn): boolean => path.length > 0 && !sorted.has(name);
  if (table.key.length === 0 || limit > most) return undefined;
  if (!columns.some((column) => isLate(column) || mayBeCut(column, query))) return undefined;

  const early = columns.filter((column) => !isLate(column));
  const there = [...early, ...sort.map(({ column }) => column)];
  const names = new Set(there.filter(isOwn).map((column) => column.own));
  const keys = columns.filter(isLate).flatMap((column) => keysTo(column, names));
  const { cells: _cells, ...uncut } = query;
  const rows: CheckedQuery = { ...uncut, columns: [...early, ...keys] };
  const all = [...rows.columns, ...cursorColumns(rows)];
  // The table's own columns keep their names; others have none.
  const isPlain = query.byParents === undefined && all.every(isOwn);
  const nameAt = (index: number): string => (isPlain ? (all[index]?.own ?? '') : `c${index}`);
  return {
    rows,
    shown: (window) => {
      const called = sql.raw(all.map((_column, index) => nameAt(index)).join(', '));
      const given = isPlain ? window : sql`select * from (${window}) r(${called})`;
      const named = (name: string): string =>
        nameAt(all.findIndex((column) => isOwn(column) && column.own === name));
      const scope = new Scope(table.name, relations, undefined, { rows: sql`(${given})`, named });
      const column = (one: CheckedColumn): SQL => {
        const index = all.findIndex(({ name }) => name === one.name);
        return index === -1 ? scope.column(one) : sql.member(scope.alias, nameAt(index));
      };
      const selected = [
        ...columns.map((one) => cutWhereLong(one, column(one), query)),
        ...cursorColumns(query).map(column),
      ];
      const ordered = order(termsAlong(query), { column });
      return sql`select ${sql.join(selected, sql`, `)}${scope.from()}${ordered}`;
    },
  };
}

function isOwn({ path, ranks }: CheckedColumn): boolean {
  return path.length === 0 && ranks === undefined;
}

/** The table's own columns that lead to a related one, as far as they are not named yet. */
function keysTo(column: CheckedColumn, names: Set<string>): CheckedColumn[] {
  const { columns = [] } = column.path[0] ?? {};
  return columns.flatMap((own) => {
    if (names.has(own)) return [];
    names.add(own);
    // No published column is called so: it may be one that the caller does not see.
    return [{ ...column, path: [], own, name: JSON.stringify([own]) }];
  });
}
