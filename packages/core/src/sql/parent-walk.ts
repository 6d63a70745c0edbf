import type { CheckedColumn, CheckedQuery, CheckedSortTerm } from '../check/index.ts';
import { comparable, valueOf } from './cast.ts';
import { sql, type SQL } from './fragment.ts';
import { termsAlong } from './keyset-order.ts';
import {
  anchorValues,
  cursorColumns,
  oneAfterTheOther,
  orderTerms,
  walkSelects,
} from './keyset.ts';
import { deferredJoins } from './deferred-joins.ts';
import { limited, reachOf } from './limit.ts';
import { Scope, type Relations } from './scope.ts';
import { whereAll } from './search.ts';
import { write, type Statement } from './statement.ts';

/** Whether a query's order begins with a related column, so that its rows can be walked parent by parent. */
export function canWalkParents({ sort: [leading], table }: CheckedQuery): boolean {
  return leading !== undefined && leading.column.path.length > 0 && table.key.length > 0;
}

/**
 * The rows of `keysetSelects` for an order that begins with a related column, one stretch behind the other: the
 * parents in their order, and of each its rows by the further terms, no more than the window wants; or the values of
 * the parents in their order, and of each the rows of all its parents. PostgreSQL sorts the rows of parents with the
 * same value together and stops with the window. Rows without a value come by themselves, last or first.
 */
export function parentSelects(query: CheckedQuery, relations: Relations): readonly SQL[] {
  return stretches(query, relations).flatMap(({ parts }) => parts);
}

/**
 * What of that a window near the beginning takes, to be planned: PostgreSQL counts a share of what comes behind
 * as well, which is not run while the first rows fill the window.
 */
export function compileFirstStretch(query: CheckedQuery, relations: Relations): Statement {
  const { limit, offset } = query;
  const [first] = stretches(deferredJoins(query, relations)?.rows ?? query, relations);
  const parts = first?.parts ?? [];
  return write(sql`${oneAfterTheOther(parts, reachOf(query))}${limited(limit + 1, offset)}`);
}

function stretches(
  query: CheckedQuery,
  relations: Relations,
): readonly { readonly parts: readonly SQL[] }[] {
  const [leading, ...rest] = termsAlong(query);
  if (leading === undefined) throw new Error('a sort has a term');
  const values = anchorValues(query);
  const value = values?.[0] ?? null;
  const inValued = values !== undefined && value !== null;
  const walk: Stretch = { query, leading, rest, relations };
  const valued = (): readonly SQL[] => {
    if (value === null || values === undefined) return [ofParents(walk, undefined)];
    const same = { comparator: sql`=`, value, behind: values.slice(1) };
    const further = { comparator: leading.descending ? sql`<` : sql`>`, value };
    return [ofParents(walk, same), ofParents(walk, further)];
  };
  const missing = (): readonly SQL[] =>
    withoutParents(walk, values !== undefined && !inValued ? values.slice(1) : undefined);
  const valuedFirst = leading.nulls === 'last';
  const phases = valuedFirst ? [valued, missing] : [missing, valued];
  // The phase before the cursor's own lies behind us altogether.
  const passed = values !== undefined && inValued !== valuedFirst ? 1 : 0;
  return phases.slice(passed).map((phase) => ({ parts: phase() }));
}

interface Stretch {
  readonly query: CheckedQuery;
  readonly leading: CheckedSortTerm;
  readonly rest: readonly CheckedSortTerm[];
  readonly relations: Relations;
}

/** Which parents: by their value, and of those with the very value which rows. */
interface Bound {
  readonly comparator: SQL;
  readonly value: string;
  readonly behind?: readonly (string | null)[];
}

function ofParents({ query, leading, rest, relations }: Stretch, bound: Bound | undefined): SQL {
  const { column } = leading;
  const step = column.path.at(-1);
  if (step === undefined) throw new Error('a related column has a path');
  const own: CheckedColumn = { ...column, path: [], name: column.own };
  const above = new Scope(step.table, relations);
  const value = above.column(own);
  const keys = step.references.map((name, index) => {
    const key = above.column({ ...own, name, own: name });
    return sql`${key} as ${sql.raw(`k${index}`)}`;
  });
  const tests = [sql`${value} is not null`];
  if (bound !== undefined) {
    const compared = comparable(value, column.type);
    tests.push(sql`${compared} ${bound.comparator} ${valueOf(bound.value, column.type)}`);
  }
  // Nulls are left out: the direction alone orders.
  const direction = leading.descending ? sql` desc` : sql``;
  const which = query.byParents === 'value' ? sql`distinct` : sql`${sql.join(keys, sql`, `)},`;
  const parents = sql`select ${which} ${value} as v${above.from()}${whereAll(tests)} order by ${value}${direction}`;

  // Up to the parent's own row nothing but what refers to it need be joined.
  const ties = (scope: Scope): SQL[] => {
    if (query.byParents === 'value') return [sql`${scope.column(column)} = p.v`];
    return step.columns.map((name, index) => {
      const path = column.path.slice(0, -1);
      const way = { ...own, name: JSON.stringify([step.name, name]), own: name, path };
      return sql`${scope.column(way)} = p.${sql.raw(`k${index}`)}`;
    });
  };
  const named = (index: number): SQL => sql.raw(`c${index}`);
  const walk = { terms: rest, values: bound?.behind, further: ties, named };
  const reach = reachOf(query);
  const phases = walkSelects(query, relations, walk);
  const rows =
    phases.length === 1
      ? sql`${oneAfterTheOther(phases)}${reach}`
      : sql`select * from (${oneAfterTheOther(phases, reach)}) u${reach}`;
  const names = { column: ({ name }: CheckedColumn): SQL => sql.raw(`r.c${placeOf(name, query)}`) };
  const then = rest.length === 0 ? sql`` : sql`, ${orderTerms(rest, names)}`;
  const count = query.columns.length + cursorColumns(query).length;
  const all = Array.from({ length: count }, (_, index) => `c${index}`);
  const selected = sql.raw(all.join(', '));
  // A row that says where the next parent begins: without it the sort of the ones before would wait for that one's
  // rows. It is taken out behind the sort, whose order stays; OFFSET keeps the planner from doing that before.
  const marks = sql.raw(all.map((name) => `null as ${name}`).join(', '));
  const marked = sql`(select true as mark, ${marks}) union all (select false, u.* from (${rows}) u)`;
  const sorted = sql`select r.* from (${parents}) p cross join lateral (${marked}) r order by p.v${direction}${then} offset 0`;
  return sql`select ${selected} from (${sorted}) w where not mark`;
}

/** The rows without a value, be it for want of a parent. */
function withoutParents(
  { query, leading, rest, relations }: Stretch,
  values: readonly (string | null)[] | undefined,
): readonly SQL[] {
  const further = (scope: Scope): SQL[] => [sql`${scope.column(leading.column)} is null`];
  return walkSelects(query, relations, { terms: rest, values, further });
}

/** Where a column stands in what is selected: as a whole, where it is there as a whole. */
function placeOf(name: string, query: CheckedQuery): number {
  const further = cursorColumns(query).findIndex((column) => column.name === name);
  if (further !== -1) return query.columns.length + further;
  return query.columns.findIndex((column) => column.name === name);
}
