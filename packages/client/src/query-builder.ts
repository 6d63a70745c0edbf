import {
  and,
  number,
  printExpression,
  property,
  text,
  where,
  type ConditionBuilder,
  type Expression,
} from '@ephoros/core/expression';
import {
  parseSearch,
  termOf,
  type Place,
  type Term,
  type TotalKind,
  type WrittenQuery,
} from '@ephoros/core/query';
import type { RowsAnswer } from '@ephoros/core/answer';
import type { QueryClient, ValuesOptions } from './query-client.ts';
import { catalogOf } from './catalog.ts';
import { eachRow, type EachRowOptions } from './each-row.ts';
import { remoteRows, type RemoteRows, type RemoteRowsOptions } from './remote-rows.ts';
import type {
  AggregatesOf,
  AggregateTerm,
  ColumnName,
  ColumnsOf,
  GroupsOf,
  SortName,
  TableTypes,
  TermName,
  ValuesOf,
} from './table-types.ts';

/**
 * A question about a table. Every step gives a new one and leaves the old one as it was; a step
 * taken again replaces what it stated, but conditions join by AND.
 */
export interface QueryBuilder<
  Table extends TableTypes,
  Line,
  /** The outermost level of its grouping, and its aggregates. */
  Level = never,
  Made extends string = never,
> {
  readonly table: string;
  /** The query as it stands, for whatever takes one. */
  readonly query: WrittenQuery;
  /** Which columns, in this order. */
  columns<Name extends ColumnName<Table>>(
    ...names: readonly Name[]
  ): QueryBuilder<Table, Pick<ColumnsOf<Table>, Name>, Level, Made>;
  /** A condition on the columns, joined by AND with those of earlier steps. */
  where(
    condition: (is: ConditionBuilder<Table['literals']>) => Expression,
  ): QueryBuilder<Table, Line, Level, Made>;
  /** The same in CQL2 Text. */
  filter(text: string): QueryBuilder<Table, Line, Level, Made>;
  /** The condition and the search of another query in addition to its own, such as those of chosen rows. */
  matching(query: Pick<WrittenQuery, 'filter' | 'search'>): QueryBuilder<Table, Line, Level, Made>;
  /** Words and "quoted phrases" that must all occur. */
  search(words: string): QueryBuilder<Table, Line, Level, Made>;
  /** By weight; `-` for descending. */
  sort(...terms: readonly SortName<Table>[]): QueryBuilder<Table, Line, Level, Made>;
  /** Where nulls stand in every term of the sort; last by default. */
  nulls(place: 'first' | 'last'): QueryBuilder<Table, Line, Level, Made>;
  /** The levels of a grouping, the outermost first. */
  group<const Terms extends readonly TermName<Table>[]>(
    ...terms: Terms
  ): QueryBuilder<Table, Line, Terms[0], Made>;
  /** What is made of the rows of each group, or of all: `count()`, `sum(toll)`. */
  aggregate<Term extends AggregateTerm<Table>>(
    ...terms: readonly Term[]
  ): QueryBuilder<Table, Line, Level, Term>;
  /** Rows at most; the table's own page size by default, and never more than its cap. */
  limit(rows: number): QueryBuilder<Table, Line, Level, Made>;
  /** The page of as many rows as `limit` says, counted from 1. Like all places it replaces another. */
  page(page: number): QueryBuilder<Table, Line, Level, Made>;
  /** Begins behind so many rows. */
  offset(rows: number): QueryBuilder<Table, Line, Level, Made>;
  /** Begins behind the row of a cursor: an answer's `next`. */
  after(cursor: string): QueryBuilder<Table, Line, Level, Made>;
  /** Ends before the row of a cursor: an answer's `previous`. */
  before(cursor: string): QueryBuilder<Table, Line, Level, Made>;
  /** How hard to count: `exact` by default. */
  total(kind: TotalKind): QueryBuilder<Table, Line, Level, Made>;
  /** Asks for the rows. */
  rows(signal?: AbortSignal): Promise<RowsAnswer<Line>>;
  /**
   * Every row, from the question's place on, requested as it is taken; none twice and none left out,
   * whatever others write: `for await (const row of question.eachRow())`.
   */
  eachRow(options?: EachRowOptions): AsyncGenerator<Line, void, undefined>;
  /** Asks for the lines of the grouping's outermost level. */
  groups(signal?: AbortSignal): Promise<GroupsOf<Table, Level, Made>>;
  /** Asks for the aggregates of the whole result. */
  aggregates(signal?: AbortSignal): Promise<AggregatesOf<Table, Made>>;
  /** Asks for the values of a column, without what the question says about it alone. */
  values<Name extends ColumnName<Table>>(
    column: Name,
    options?: ValuesOptions,
    signal?: AbortSignal,
  ): Promise<ValuesOf<Table, Name>>;
  /** All rows, by position, loaded as they are looked at. */
  source(options?: Omit<RemoteRowsOptions<Line>, 'request' | 'query'>): RemoteRows<Line>;
  /** Where it is requested: for the rows, or for the lines of its groups. */
  url(): string;
}

/** Starts a query; `clientOf` returns the client that sends it. */
export function queryBuilder<
  Table extends TableTypes,
  Line,
  Level = never,
  Made extends string = never,
>(
  clientOf: () => QueryClient,
  table: string,
  query: WrittenQuery = {},
): QueryBuilder<Table, Line, Level, Made> {
  type Builder = QueryBuilder<Table, Line, Level, Made>;
  const further = (more: WrittenQuery): Builder =>
    queryBuilder(clientOf, table, { ...query, ...more });
  const at = (place: Place): Builder => further({ place });
  // What the columns hold, and what is made of them, is what the types of the tables say.
  const typed = async <Answer>(answer: Promise<object>): Promise<Answer> =>
    (await answer) as unknown as Answer;
  const rows = (wanted: WrittenQuery, signal?: AbortSignal): Promise<RowsAnswer<Line>> =>
    typed(clientOf().rows(table, wanted, signal));
  return {
    table,
    query,
    columns: (...names) => queryBuilder(clientOf, table, { ...query, columns: names.map(named) }),
    where: (condition) =>
      further({
        filter: joinFilters(query.filter, condition(where())),
      }),
    filter: (condition) => further({ filter: joinFilters(query.filter, condition) }),
    matching: ({ filter, search = [] }) =>
      further({
        ...(filter === undefined ? {} : { filter: joinFilters(query.filter, filter) }),
        ...(search.length === 0 ? {} : { search: [...(query.search ?? []), ...search] }),
      }),
    search: (words) => further({ search: parseSearch(words) }),
    sort: (...terms) => further({ sort: terms.map(sortTerm) }),
    nulls: (nulls) => further({ nulls }),
    group: (...terms) => queryBuilder(clientOf, table, { ...query, group: terms.map(term) }),
    aggregate: (...terms) =>
      queryBuilder(clientOf, table, { ...query, aggregate: terms.map(term) }),
    limit: (limit) => further({ limit }),
    page: (page) => at({ kind: 'page', page }),
    offset: (offset) => at({ kind: 'offset', offset }),
    after: (token) => at({ kind: 'after', token }),
    before: (token) => at({ kind: 'before', token }),
    total: (total) => further({ total }),
    rows: (signal) => rows(query, signal),
    eachRow: (options = {}) =>
      eachRow({
        ...options,
        request: rows,
        query,
        keyed: async () => (await catalogOf(clientOf()).describe(table)).key.length > 0,
      }),
    groups: (signal) => typed(clientOf().groups(table, query, signal)),
    aggregates: (signal) => typed(clientOf().aggregates(table, query, signal)),
    values: (column, options, signal) =>
      typed(clientOf().values(table, column, query, options, signal)),
    source: (options = {}) => remoteRows<Line>({ ...options, request: rows, query }),
    url: () =>
      query.group === undefined
        ? clientOf().rowsUrl(table, query)
        : clientOf().groupsUrl(table, query),
  };
}

const span = { start: 0, end: 0 };

function named(name: string): { name: string; span: typeof span } {
  return { name, span };
}

/** Both conditions, as they are at hand: joined by AND. */
export function joinFilters(
  one: Expression | string | undefined,
  other: Expression | string,
): Expression | string {
  if (one === undefined) return other;
  if (typeof one === 'object' && typeof other === 'object') return and([one, other]) ?? one;
  return `(${filterText(one)}) AND (${filterText(other)})`;
}

/** A condition as text, whatever form it is at hand in; the empty text for none. */
export function filterText(condition: Expression | string | undefined): string {
  return typeof condition === 'object' ? printExpression(condition) : (condition ?? '');
}

function sortTerm(name: string): NonNullable<WrittenQuery['sort']>[number] {
  const descending = name.startsWith('-');
  const { expression, name: plain } = term(descending ? name.slice(1) : name);
  const column = named(plain);
  return expression.kind === 'call' ? { column, descending, expression } : { column, descending };
}

/** A column, or a function of columns, numbers and texts in single quotes. */
function term(name: string): Term {
  const [, called = '', inside = ''] = /^([a-z_]+)\((.*)\)$/s.exec(name) ?? [];
  if (called === '') return { name, expression: property(name) };
  const args = inside.split(',').map((part) => part.trim());
  // What is in turn made of something is requested as it is written.
  const plain = !/[()+*/%^"=<>]|\s-\s|\s(?:like|in|is|between|and|or)\s/i.test(inside);
  if (!plain) return { name, expression: { kind: 'call', name: called, args: [], span } };
  return termOf({
    kind: 'call',
    name: called,
    args: args.filter((part) => part !== '').map(argument),
    span,
  });
}

function argument(part: string): Expression {
  if (/^[+-]?\d+(\.\d+)?$/.test(part)) return number(part);
  const [, quoted] = /^'(.*)'$/s.exec(part) ?? [];
  return quoted === undefined ? property(part) : text(quoted.replaceAll("''", "'"));
}
