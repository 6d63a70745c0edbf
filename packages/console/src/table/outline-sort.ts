import type { Expression } from '@ephoros/core/expression';
import { isOfGroups, sortInForce, sortsBy, type Query, type SortTerm } from '@ephoros/core/query';
import { isAggregateName, type TableDescription } from '@ephoros/core/schema';
import type { SortMark } from '@ephoros/react';
import { columnOfTerm } from './aggregate-cell.tsx';
import { cycled, sortTermBy, sortTexts } from './view-state.ts';

/** The name of the column that shows the outline: no table has a column of this name. */
export const outlineColumn = ' outline';

/** The sort in force at the headers that show it: an aggregate's is that of its column. */
export function headerMarks(query: Query, table: TableDescription): readonly SortMark[] {
  return sortInForce(query, table).map((term) => ({
    column: isOfGroups(term, query) ? headerOf(term) : term.column.name,
    descending: term.descending,
  }));
}

function headerOf({ expression }: SortTerm): string {
  const aggregate = expression !== undefined && isAggregate(expression) ? expression : undefined;
  return (aggregate && columnOfTerm(aggregate)) ?? outlineColumn;
}

function isAggregate(expression: Expression): boolean {
  return expression.kind === 'call' && isAggregateName(expression.name);
}

/**
 * The texts for the sort after a header was chosen: of the groups by what it shows for them, the
 * first of its aggregates or the value of the outermost level; else of the rows.
 */
export function sortedBy(
  header: string,
  add: boolean,
  query: Query,
  table: TableDescription,
): Readonly<Record<string, string | undefined>> {
  const sort = sortInForce(query, table);
  const ofGroups = sort.filter((term) => isOfGroups(term, query));
  const ofRows = sort.filter((term) => !isOfGroups(term, query));
  const name = shownAt(header, query);
  const next =
    name === undefined
      ? [...ofGroups, ...cycled(ofRows, header, add, table)]
      : [...turned(ofGroups, name, add), ...ofRows];
  return sortTexts(next, table, query);
}

/** What a header shows for groups; undefined where it shows nothing. */
function shownAt(header: string, { group = [], aggregate = [] }: Query): string | undefined {
  if (header === outlineColumn) return group[0]?.name;
  return aggregate.find(({ expression }) => columnOfTerm(expression) === header)?.name;
}

/** Aggregates go from the highest first to the lowest first to none, values the other way round. */
function turned(terms: readonly SortTerm[], name: string, add: boolean): readonly SortTerm[] {
  const term = terms.find((one) => sortsBy(one, { name }));
  const others = add ? terms.filter((one) => !sortsBy(one, { name })) : [];
  const begin = sortTermBy(name, true);
  const first = begin.expression !== undefined && isAggregate(begin.expression);
  if (term === undefined) return [...others, sortTermBy(name, first)];
  return term.descending === first ? [...others, sortTermBy(name, !first)] : others;
}
