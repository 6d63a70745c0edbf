import type { Expression } from '../expression/index.ts';
import {
  defaultSort,
  isOfGroups,
  printSort,
  sortInForce,
  sortsBy,
  type Query,
  type SortTerm,
  type Term,
} from '../query/index.ts';
import { isAggregateName, type TableDescription } from '../schema/index.ts';
import { changed, type View } from './view.ts';

/** The name under which the column of an outline is sorted: no table has a column of this name. */
export const outlineColumn = ' outline';

/** A term of the sort in force at the header that shows it. */
export interface SortMark {
  readonly column: string;
  readonly descending: boolean;
}

/** The view in another order, of groups and rows, from its beginning; the table's own is left out. */
export function withSort(view: View, terms: readonly SortTerm[], table: TableDescription): View {
  const ofRows = terms.filter((term) => !isOfGroups(term, view));
  const own = printSort(ofRows) === printSort(defaultSort(table));
  const remaining = terms.filter((term) => isOfGroups(term, view) || !own);
  return changed(view, { sort: remaining.length === 0 ? undefined : remaining, place: undefined });
}

/** The sort by a level or an aggregate. */
export function sortTermOf({ name, expression }: Term, descending: boolean): SortTerm {
  const span = { start: 0, end: 0 };
  return expression.kind === 'property'
    ? { column: { name: expression.name, span }, descending }
    : { column: { name, span }, descending, expression };
}

/** The sort in force at the headers that show it: an aggregate's is that of its column. */
export function sortMarks(query: Query, table: TableDescription): readonly SortMark[] {
  return sortInForce(query, table).map((term) => ({
    column: isOfGroups(term, query) ? headerOf(term) : term.column.name,
    descending: term.descending,
  }));
}

/**
 * The view after a header was chosen to sort by: the groups by what it shows for them, the first of
 * its aggregates or the value of the outermost level; else the rows. `add` keeps the other terms.
 */
export function sortedBy(view: View, header: string, add: boolean, table: TableDescription): View {
  const sort = sortInForce(view, table);
  const ofGroups = sort.filter((term) => isOfGroups(term, view));
  const ofRows = sort.filter((term) => !isOfGroups(term, view));
  const term = shownAt(header, view);
  const next =
    term === undefined
      ? [...ofGroups, ...cycled(ofRows, header, add, table)]
      : [...turned(ofGroups, term, add), ...ofRows];
  return withSort(view, next, table);
}

/** The column that an aggregate is about, under which it stands; undefined for none. */
export function columnOfTerm(expression: Expression): string | undefined {
  const [of] = expression.kind === 'call' ? expression.args : [];
  return of?.kind === 'property' ? of.name : undefined;
}

function headerOf({ expression }: SortTerm): string {
  const aggregate = expression !== undefined && isAggregate(expression) ? expression : undefined;
  return (aggregate && columnOfTerm(aggregate)) ?? outlineColumn;
}

function isAggregate(expression: Expression): boolean {
  return expression.kind === 'call' && isAggregateName(expression.name);
}

/** What a header shows for groups; undefined where it shows nothing. */
function shownAt(header: string, { group = [], aggregate = [] }: Query): Term | undefined {
  if (header === outlineColumn) return group[0];
  // Without groups an aggregate is about the whole, of which there is no order.
  if (group.length === 0) return undefined;
  return aggregate.find(({ expression }) => columnOfTerm(expression) === header);
}

/** Aggregates go from the highest first to the lowest first to none, values the other way round. */
function turned(terms: readonly SortTerm[], by: Term, add: boolean): readonly SortTerm[] {
  const term = terms.find((one) => sortsBy(one, by));
  const others = add ? terms.filter((one) => !sortsBy(one, by)) : [];
  const first = isAggregate(by.expression);
  if (term === undefined) return [...others, sortTermOf(by, first)];
  return term.descending === first ? [...others, sortTermOf(by, !first)] : others;
}

/**
 * None → ascending → descending → none. Where no sort at all would bring the table's own sort by
 * the same column and direction back, the column turns around instead.
 */
function cycled(
  terms: readonly SortTerm[],
  name: string,
  add: boolean,
  table: TableDescription,
): readonly SortTerm[] {
  const term = terms.find(({ column }) => column.name === name);
  const others = add ? terms.filter(({ column }) => column.name !== name) : [];
  const by = (descending: boolean): SortTerm => ({
    column: { name, span: { start: 0, end: 0 } },
    descending,
  });
  if (term === undefined) return [...others, by(false)];
  const replace = (next: SortTerm): readonly SortTerm[] =>
    add ? terms.map((one) => (one === term ? next : one)) : [next];
  if (!term.descending) return replace(by(true));
  const own = defaultSort(table);
  const back = own.length === 1 && own[0]?.column.name === name && own[0].descending;
  return others.length === 0 && back ? replace(by(false)) : others;
}
