import { sql, type SQL } from 'drizzle-orm';
import type { CheckedColumn, CheckedQuery, CheckedSortTerm } from '../check/index.ts';
import type { TableDescription } from '../schema/index.ts';
import { valueOf } from './cast.ts';
import { condition } from './condition.ts';
import { Scope, type Relations } from './scope.ts';
import { columnName, write, type Statement } from './statement.ts';

/** The rows of a query's window, in its order; each column in the order of `query.columns`. */
export function compileRows(query: CheckedQuery, relations: Relations): Statement {
  const [leading] = query.sort;
  return write(
    leading !== undefined && needsPhases(leading)
      ? inTwoPhases(query, leading, relations)
      : inOnePhase(query, relations),
  );
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
    return sql`${scope.alias}.${columnName(name)} = ${valueOf(value, column.type)}`;
  });
  const selected = list(columns, scope);
  return write(sql`select ${selected}${scope.from()} where ${sql.join(parts, sql` and `)}`);
}

function inOnePhase(query: CheckedQuery, relations: Relations): SQL {
  const { sort, limit, offset } = query;
  return sql`${walk(query, relations, [], sort)} limit ${limit} offset ${offset}`;
}

// A plain index holds nulls after the greatest value. Where they are wanted elsewhere it can
// still be walked: the rows with a value, then (or before) the rows without one.
function needsPhases({ column, descending, nulls }: CheckedSortTerm): boolean {
  return column.nullable && descending === (nulls === 'last');
}

/**
 * Two ordered walks, one after the other; the second is not run while the first fills the
 * window. Each needs as many rows as lie before the window's end. Relies on UNION ALL keeping
 * the order of its parts, which it does while parallel append is off (see the service's pool).
 */
function inTwoPhases(query: CheckedQuery, leading: CheckedSortTerm, relations: Relations): SQL {
  const { sort, limit, offset } = query;
  const reach = offset + limit;
  const { column } = leading;
  const phase = (missing: boolean, terms: readonly CheckedSortTerm[]): SQL => {
    const test = (scope: Scope): SQL =>
      missing ? sql`${scope.column(column)} is null` : sql`${scope.column(column)} is not null`;
    return sql`(${walk(query, relations, [test], terms)} limit ${reach})`;
  };
  // No nulls are left among the valued: the index's own direction serves.
  const standard = leading.descending ? 'first' : 'last';
  const valued = phase(false, [{ ...leading, nulls: standard }, ...sort.slice(1)]);
  const missing = phase(true, sort.slice(1));
  const [first, second] = leading.nulls === 'last' ? [valued, missing] : [missing, valued];
  return sql`${first} union all ${second} limit ${limit} offset ${offset}`;
}

/** The query's rows that meet further tests, in the order of the terms. */
function walk(
  { table, columns, filter }: CheckedQuery,
  relations: Relations,
  tests: readonly ((scope: Scope) => SQL)[],
  terms: readonly CheckedSortTerm[],
): SQL {
  const scope = new Scope(table.name, relations);
  const selected = list(columns, scope);
  const conditions = [
    ...tests.map((test) => test(scope)),
    ...(filter ? [condition(filter, scope)] : []),
  ];
  const where = conditions.length === 0 ? sql`` : sql` where ${sql.join(conditions, sql` and `)}`;
  const ordered = order(terms, scope);
  return sql`select ${selected}${scope.from()}${where}${ordered}`;
}

function list(columns: readonly CheckedColumn[], scope: Scope): SQL {
  return sql.join(
    columns.map((column) => scope.column(column)),
    sql`, `,
  );
}

function order(terms: readonly CheckedSortTerm[], scope: Scope): SQL {
  if (terms.length === 0) return sql``;
  const parts = terms.map((term) => orderTerm(term, scope));
  return sql` order by ${sql.join(parts, sql`, `)}`;
}

function orderTerm({ column, descending, nulls }: CheckedSortTerm, scope: Scope): SQL {
  const name = scope.column(column);
  const direction = descending ? sql`${name} desc` : name;
  const standard = descending ? 'first' : 'last';
  if (!column.nullable || nulls === standard) return direction;
  return nulls === 'last' ? sql`${direction} nulls last` : sql`${direction} nulls first`;
}
