import { sql, type SQL } from './fragment.ts';
import type { CheckedColumn, CheckedQuery, CheckedSortTerm } from '../check/index.ts';
import type { TableDescription } from '../schema/index.ts';
import { valueOf } from './cast.ts';
import { behind, type Position } from './position.ts';
import { Scope, type Relations } from './scope.ts';
import { matchTests } from './search.ts';
import { write, type Statement } from './statement.ts';
import { walkOrder } from './walk-order.ts';

/**
 * The rows of a query's window and one more, if there is one, so that it is known whether the
 * result goes on. Before a cursor the rows come in reverse. Each row holds the query's columns
 * and then those of `cursorColumns`.
 */
export function compileRows(query: CheckedQuery, relations: Relations): Statement {
  const { terms, phased } = walkOrder(query);
  return write(phased ? inTwoPhases(query, terms, relations) : inOnePhase(query, terms, relations));
}

/** The columns that a cursor needs beside the query's own; none where there is no key. */
export function cursorColumns({ table, columns, sort }: CheckedQuery): readonly CheckedColumn[] {
  if (table.key.length === 0) return [];
  const there = new Set(columns.map(({ name }) => name));
  return sort.map(({ column }) => column).filter(({ name }) => !there.has(name));
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
    return sql`${sql.member(scope.alias, name)} = ${valueOf(value, column.type)}`;
  });
  const selected = list(columns, scope);
  return write(sql`select ${selected}${scope.from()} where ${sql.join(parts, sql` and `)}`);
}

function inOnePhase(
  query: CheckedQuery,
  terms: readonly CheckedSortTerm[],
  relations: Relations,
): SQL {
  const { beside, limit, offset } = query;
  const tests = beside ? [(scope: Scope) => behind(positions(terms, beside.values), scope)] : [];
  const select = selection(query, relations);
  return sql`${walk(query, select, tests, terms)} limit ${limit + 1} offset ${offset}`;
}

/**
 * Two ordered walks, one after the other; the second is not run while the first fills the
 * window. Each needs as many rows as lie before the window's end. Relies on UNION ALL keeping
 * the order of its parts, which it does while parallel append is off (see the service's pool).
 * A phase that a cursor has left behind is not there.
 */
function inTwoPhases(
  query: CheckedQuery,
  terms: readonly CheckedSortTerm[],
  relations: Relations,
): SQL {
  const [leading, ...rest] = terms;
  if (leading === undefined) throw new Error('phases need a leading term');
  const { beside, limit, offset } = query;
  const reach = offset + limit + 1;
  const { column } = leading;
  const valuedFirst = leading.nulls === 'last';
  // Where the cursor's row is: in the phase of rows with a value, or without.
  const [leadingValue] = beside?.values ?? [];
  const inValued = leadingValue !== undefined && leadingValue !== null;
  // No nulls are left among the valued: the index's own direction serves.
  const standard = leading.descending ? ('first' as const) : ('last' as const);
  const valuedTerms = [{ ...leading, nulls: standard }, ...rest];
  // Both walks select the same from the same tables.
  const select = selection(query, relations);

  const valued = (): SQL => {
    const tests = [(scope: Scope) => sql`${scope.column(column)} is not null`];
    if (beside && inValued) {
      tests.push((scope) => behind(positions(valuedTerms, beside.values), scope));
    }
    return walk(query, select, tests, valuedTerms);
  };
  const missing = (): SQL => {
    const tests = [(scope: Scope) => sql`${scope.column(column)} is null`];
    if (beside && !inValued) {
      tests.push((scope) => behindMissing(rest, beside.values.slice(1), scope));
    }
    return walk(query, select, tests, rest);
  };
  const phases = valuedFirst ? [valued, missing] : [missing, valued];
  // The phase before the cursor's own lies behind us altogether.
  const passed = beside !== undefined && inValued !== valuedFirst ? 1 : 0;
  const parts = phases.slice(passed).map((phase) => phase());
  const [only] = parts;
  const whole =
    only !== undefined && parts.length === 1
      ? only
      : sql.join(
          parts.map((part) => sql`(${part} limit ${reach})`),
          sql` union all `,
        );
  return sql`${whole} limit ${limit + 1} offset ${offset}`;
}

/** Among the rows without a leading value the further terms decide; they may be null as well. */
function behindMissing(
  rest: readonly CheckedSortTerm[],
  values: readonly (string | null)[],
  scope: Scope,
): SQL {
  const [next, ...further] = rest;
  if (next === undefined) return sql`false`;
  const [value = null, ...others] = values;
  if (!next.column.nullable) return behind(positions(rest, values), scope);
  const name = scope.column(next.column);
  const deeper = behindMissing(further, others, scope);
  if (value === null) {
    const within = sql`(${name} is null and ${deeper})`;
    return next.nulls === 'first' ? sql`(${name} is not null or ${within})` : within;
  }
  const here = sql`(${name} is not null and ${behind(positions(rest, values), scope)})`;
  return next.nulls === 'last' ? sql`(${here} or ${name} is null)` : here;
}

function positions(
  terms: readonly CheckedSortTerm[],
  values: readonly (string | null)[],
): readonly Position[] {
  return terms.map((term, index) => ({ term, value: values[index] ?? null }));
}

/** What a walk selects, and the tables it selects from. */
interface Selection {
  readonly scope: Scope;
  readonly list: SQL;
}

function selection(query: CheckedQuery, relations: Relations): Selection {
  const scope = new Scope(query.table.name, relations);
  return { scope, list: list([...query.columns, ...cursorColumns(query)], scope) };
}

/** The query's rows that meet further tests, in the order of the terms. */
function walk(
  query: CheckedQuery,
  { scope, list: selected }: Selection,
  tests: readonly ((scope: Scope) => SQL)[],
  terms: readonly CheckedSortTerm[],
): SQL {
  const conditions = [...tests.map((test) => test(scope)), ...matchTests(query, scope)];
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
