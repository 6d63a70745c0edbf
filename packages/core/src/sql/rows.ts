import { sql, type SQL } from './fragment.ts';
import type { CheckedColumn, CheckedQuery } from '../check/index.ts';
import type { TableDescription } from '../schema/index.ts';
import { comparable, valueOf } from './cast.ts';
import { deferredJoins } from './deferred-joins.ts';
import { limited, reachOf } from './limit.ts';
import { parentSelects } from './parent-walk.ts';
import { Scope, type Relations } from './scope.ts';
import { isGenericPlan } from './generic-plan.ts';
import { write, type Statement } from './statement.ts';
import { list, oneAfterTheOther, keysetSelects } from './keyset.ts';

/**
 * The rows of a query's window and one more, if there is one, so that it is known whether the
 * result goes on. Before a cursor, and before the end, the rows come in reverse. Each row holds
 * the query's columns and then those of `cursorColumns`.
 */
export function compileRows(query: CheckedQuery, relations: Relations): Statement {
  return write(windowSelect(query, query.limit + 1, relations), isGenericPlan(query, relations));
}

/** The rows of a query's window in their order, so many at most. */
export function windowSelect(query: CheckedQuery, limit: number, relations: Relations): SQL {
  const late = deferredJoins(query, relations);
  const rows = late?.rows ?? query;
  const window = sql`${rowsUpTo(rows, relations)}${limited(limit, query.offset)}`;
  return late === undefined ? window : late.shown(window);
}

/** The rows of a query up to the end of its window, in their order; see `keysetSelects`. */
function rowsUpTo(query: CheckedQuery, relations: Relations): SQL {
  const selects = query.byParents !== undefined ? parentSelects : keysetSelects;
  return oneAfterTheOther(selects(query, relations), reachOf(query));
}

/** One row by its key; `keyValues` in the order of the table's key, in PostgreSQL's notation. */
export function compileRow(
  table: TableDescription,
  columns: readonly CheckedColumn[],
  keyValues: readonly string[],
  relations: Relations,
): Statement {
  const scope = new Scope(table.name, relations);
  const parts = table.key.map((name, index) => {
    const column = table.columns.find((one) => one.name === name);
    const value = keyValues[index];
    if (column === undefined || value === undefined) throw new Error(`no value for key ${name}`);
    const own = comparable(sql.member(scope.alias, name), column.type);
    return sql`${own} = ${valueOf(value, column.type)}`;
  });
  const selected = list(columns, scope);
  return write(sql`select ${selected}${scope.from()} where ${sql.join(parts, sql` and `)}`);
}
