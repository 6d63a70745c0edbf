import { sql, type SQL } from 'drizzle-orm';
import type { CheckedQuery, CheckedSortTerm } from '../check/index.ts';
import type { ColumnDescription, TableDescription } from '../schema/index.ts';
import { condition, valueOf } from './condition.ts';
import { columnName, relationName, write, type Relation, type Statement } from './statement.ts';

export type { Relation, Statement } from './statement.ts';

/** The rows of a query's window, in its order; each column in the order of `query.columns`. */
export function compileRows(query: CheckedQuery, relation: Relation): Statement {
  const [leading] = query.sort;
  return write(
    leading !== undefined && needsPhases(leading)
      ? inTwoPhases(query, leading, relation)
      : inOnePhase(query, relation),
  );
}

/** One row by its key; `keyValues` in the order of the table's key, in PostgreSQL's notation. */
export function compileRow(
  table: TableDescription,
  columns: readonly ColumnDescription[],
  keyValues: readonly string[],
  relation: Relation,
): Statement {
  const parts = table.key.map((name, index) => {
    const column = table.columns.find((one) => one.name === name);
    const value = keyValues[index];
    if (column === undefined || value === undefined) throw new Error(`no value for key ${name}`);
    return sql`${columnName(name)} = ${valueOf(value, column.type)}`;
  });
  return write(
    sql`select ${list(columns)} from ${relationName(relation)} where ${sql.join(parts, sql` and `)}`,
  );
}

function inOnePhase(query: CheckedQuery, relation: Relation): SQL {
  const { columns, filter, sort, limit, offset } = query;
  const where = filter ? sql` where ${condition(filter)}` : sql``;
  return sql`select ${list(columns)} from ${relationName(relation)}${where}${order(sort)} limit ${limit} offset ${offset}`;
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
function inTwoPhases(query: CheckedQuery, leading: CheckedSortTerm, relation: Relation): SQL {
  const { columns, filter, sort, limit, offset } = query;
  const name = columnName(leading.column.name);
  const reach = offset + limit;
  const phase = (test: SQL, terms: readonly CheckedSortTerm[]): SQL => {
    const where = filter ? sql`${test} and ${condition(filter)}` : test;
    return sql`(select ${list(columns)} from ${relationName(relation)} where ${where}${order(terms)} limit ${reach})`;
  };
  // No nulls are left among the valued: the index's own direction serves.
  const standard = leading.descending ? 'first' : 'last';
  const valued = phase(sql`${name} is not null`, [
    { ...leading, nulls: standard },
    ...sort.slice(1),
  ]);
  const missing = phase(sql`${name} is null`, sort.slice(1));
  const [first, second] = leading.nulls === 'last' ? [valued, missing] : [missing, valued];
  return sql`${first} union all ${second} limit ${limit} offset ${offset}`;
}

function list(columns: readonly ColumnDescription[]): SQL {
  return sql.join(
    columns.map(({ name }) => columnName(name)),
    sql`, `,
  );
}

function order(terms: readonly CheckedSortTerm[]): SQL {
  if (terms.length === 0) return sql``;
  return sql` order by ${sql.join(terms.map(orderTerm), sql`, `)}`;
}

function orderTerm({ column, descending, nulls }: CheckedSortTerm): SQL {
  const name = columnName(column.name);
  const direction = descending ? sql`${name} desc` : name;
  const standard = descending ? 'first' : 'last';
  if (!column.nullable || nulls === standard) return direction;
  return nulls === 'last' ? sql`${direction} nulls last` : sql`${direction} nulls first`;
}
