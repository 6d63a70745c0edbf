import { sql, type SQL } from './fragment.ts';
import type {
  CheckedColumn,
  CheckedQuery,
  CheckedSortTerm,
  CheckedWindow,
} from '../check/index.ts';
import { blankPadded, type ColumnType } from '../schema/index.ts';
import { behind, type Position } from './position.ts';
import type { ColumnNames } from './column-names.ts';
import { Scope, type Relations } from './scope.ts';
import { matchTests, whereAll } from './search.ts';
import { isPhased, keysetOrder } from './keyset-order.ts';

/** The columns that a cursor needs next to the query's own; none where there is no key. */
export function cursorColumns(query: CheckedQuery): readonly CheckedColumn[] {
  const { table, columns, sort } = query;
  if (table.key.length === 0) return [];
  // A value that may be cut says nothing of a place.
  const whole = columns.filter((column) => !mayBeCut(column, query));
  const there = new Set(whole.map(({ name }) => name));
  return sort.map(({ column }) => column).filter(({ name }) => !there.has(name));
}

/** Whether a column's values are cut where they are long: those of types that have no bound. */
export function mayBeCut({ type }: CheckedColumn, { cells }: Pick<CheckedQuery, 'cells'>): boolean {
  if (cells === undefined || type.databaseType === blankPadded) return false;
  return unbounded.has(type.kind);
}

const unbounded: ReadonlySet<ColumnType['kind']> = new Set([
  'text',
  'numeric',
  'json',
  'binary',
  'array',
  'range',
  'opaque',
]);

/** The query's columns, and then those of `cursorColumns`. */
function selectedColumns(query: CheckedQuery, scope: Scope): readonly SQL[] {
  const own = query.columns.map((column) => cutWhereLong(column, scope.column(column), query));
  const further = cursorColumns(query).map((column) => scope.column(column));
  return [...own, ...further];
}

/** A column's value; where it may be long, no more of it than one character beyond what is requested. */
export function cutWhereLong(column: CheckedColumn, value: SQL, query: CheckedQuery): SQL {
  const { cells = 0 } = query;
  return mayBeCut(column, query) ? sql`left(${value}::text, ${cells + 1}::int4)` : value;
}

/** Columns, as a SELECT lists them. */
export function list(columns: readonly CheckedColumn[], scope: Scope): SQL {
  return sql.join(
    columns.map((column) => scope.column(column)),
    sql`, `,
  );
}

/**
 * A query's rows in their order, behind its cursor if it has one: one ordered SELECT, or two, the
 * one after the other (see `keysetOrder`). Each row holds the query's columns and then those of
 * `cursorColumns`. A phase that a cursor has left behind is not there.
 */
export function keysetSelects(query: CheckedQuery, relations: Relations): readonly SQL[] {
  const { terms } = keysetOrder(query);
  return walkSelects(query, relations, { terms, values: anchorValues(query) });
}

/** An order that rows are walked in: behind some values of its terms, and only those that meet further tests. */
export interface Walk {
  readonly terms: readonly CheckedSortTerm[];
  readonly values: readonly (string | null)[] | undefined;
  readonly further?: (scope: Scope) => readonly SQL[];
  /** What the columns that are selected are called; nothing by default. */
  readonly named?: (index: number) => SQL;
}

/** The same in an order of one's own. */
export function walkSelects(
  query: CheckedQuery,
  relations: Relations,
  { terms, values, further, named }: Walk,
): readonly SQL[] {
  const phased = isPhased(terms, values !== undefined);
  // All of them select the same from the same tables.
  const scope = new Scope(query.table.name, relations);
  const columns = selectedColumns(query, scope);
  const selected = sql.join(
    named === undefined ? columns : columns.map((one, index) => sql`${one} as ${named(index)}`),
    sql`, `,
  );
  const selectBy = (tests: readonly SQL[], by: readonly CheckedSortTerm[]): SQL => {
    const conditions = [...(further?.(scope) ?? []), ...tests, ...matchTests(query, scope)];
    const where = whereAll(conditions);
    const ordered = order(by, scope);
    return sql`select ${selected}${scope.from()}${where}${ordered}`;
  };
  if (!phased) return [selectBy(values ? [behind(positions(terms, values), scope)] : [], terms)];

  const [leading, ...rest] = terms;
  if (leading === undefined) throw new Error('phases need a leading term');
  const name = scope.column(leading.column);
  const valuedFirst = leading.nulls === 'last';
  // Where the cursor's row is: in the phase of rows with a value, or without.
  const inValued = values !== undefined && (values[0] ?? null) !== null;
  // No nulls are left among the valued: the index's own direction serves.
  const standard = leading.descending ? ('first' as const) : ('last' as const);
  const valuedTerms = [{ ...leading, nulls: standard }, ...rest];
  const valued = (): SQL => {
    const tests = [sql`${name} is not null`];
    if (values && inValued) tests.push(behind(positions(valuedTerms, values), scope));
    return selectBy(tests, valuedTerms);
  };
  const missing = (): SQL => {
    const tests = [sql`${name} is null`];
    if (values && !inValued) tests.push(behindMissing(rest, values.slice(1), scope));
    return selectBy(tests, rest);
  };
  const phases = valuedFirst ? [valued, missing] : [missing, valued];
  // The phase before the cursor's own lies behind us altogether.
  const passed = values !== undefined && inValued !== valuedFirst ? 1 : 0;
  return phases.slice(passed).map((phase) => phase());
}

/**
 * The second part is not run while the first gives rows enough; neither is asked for more than
 * `reach`, the end of a statement. Relies on UNION ALL keeping the order of its parts, which it does while parallel
 * append is off (see the service's pool).
 */
export function oneAfterTheOther(parts: readonly SQL[], reach?: SQL): SQL {
  const [only] = parts;
  if (only !== undefined && parts.length === 1) return only;
  const bounded = parts.map((part) =>
    reach === undefined ? sql`(${part})` : sql`(${part}${reach})`,
  );
  return sql.join(bounded, sql` union all `);
}

/** The sort values of the row that the window lies next to; undefined next to none. */
export function anchorValues({ anchor }: CheckedWindow): readonly (string | null)[] | undefined {
  return anchor === undefined || anchor.kind === 'end' ? undefined : anchor.values;
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

export function positions(
  terms: readonly CheckedSortTerm[],
  values: readonly (string | null)[],
): readonly Position[] {
  return terms.map((term, index) => ({ term, value: values[index] ?? null }));
}

/** An ORDER BY clause; empty for no terms. */
export function order(terms: readonly CheckedSortTerm[], scope: ColumnNames): SQL {
  return terms.length === 0 ? sql`` : sql` order by ${orderTerms(terms, scope)}`;
}

/** What stands in one. */
export function orderTerms(terms: readonly CheckedSortTerm[], scope: ColumnNames): SQL {
  return sql.join(
    terms.map((term) => orderTerm(term, scope)),
    sql`, `,
  );
}

function orderTerm({ column, descending, nulls }: CheckedSortTerm, scope: ColumnNames): SQL {
  const name = scope.column(column);
  const direction = descending ? sql`${name} desc` : name;
  const standard = descending ? 'first' : 'last';
  if (!column.nullable || nulls === standard) return direction;
  return nulls === 'last' ? sql`${direction} nulls last` : sql`${direction} nulls first`;
}
