import {
  levelFilter,
  lineConditions,
  lineFilter,
  type CheckedColumn,
  type CheckedGrouping,
  type CheckedQuery,
  type CheckedValues,
} from '../check/index.ts';
import {
  and,
  parsePath,
  printExpression,
  printPath,
  property,
  type PathValue,
} from '../expression/index.ts';
import type { Query } from '../query/index.ts';
import type { ResultColumn, TableDescription } from '../schema/index.ts';
import type { Executor, FoundLines, FoundRows } from './executor.ts';
import { JsonText } from './json-text.ts';
import { linksAround } from './links.ts';
import { measured } from './measured.ts';
import type {
  AggregatesAnswer,
  GroupLine,
  GroupsAnswer,
  MilepostsAnswer,
  RowAnswer,
  RowsAnswer,
  Value,
  ValuesAnswer,
  Window,
} from './schemas.ts';

/** The rows of a query's window. */
export async function answerRows(query: CheckedQuery, executor: Executor): Promise<RowsAnswer> {
  const { table, columns, offset, limit, capped } = query;
  const found = await executor.rows(query);
  const { rows, count, cuts, cut, nextToRow, next, previous, scanned } = found;
  const total = totalOf(query, found);
  const counted: Omit<Window, 'links'> = {
    offset: nextToRow ? null : offset,
    limit,
    ...(capped ? { rowCap: table.rowCap } : {}),
    count,
    ...(cut ? { cut } : {}),
    total: total?.rows ?? null,
    totalKind: total?.kind ?? 'none',
    ...(total === undefined && query.total !== 'none' ? { counting: true } : {}),
    ...(total?.countedAt === undefined ? {} : { countedAt: timestamp(total.countedAt) }),
    ...asOf(found.at),
    ...(scanned === undefined ? {} : { scanned }),
  };
  return {
    table: table.name,
    columns: columns.map(({ name }) => name),
    rows,
    ...(cuts === undefined ? {} : { cuts }),
    window: { ...counted, links: linksAround(counted, { next, previous }) },
    next,
    previous,
  };
}

/**
 * The number of rows, as far as the window itself shows it: the last window has the exact number, and a number that an
 * empty window contradicts is out of date. Windows next to a row, cut or older ones show nothing of it.
 */
function totalOf(
  { table, offset, total: wanted }: CheckedQuery,
  found: FoundRows,
): FoundRows['total'] {
  const { count, cut, nextToRow, next, scanned, total, at } = found;
  const isEnd = next === null && !nextToRow && !cut && scanned === undefined;
  if (!isEnd || wanted === 'none') return total;
  const isPast = count === 0 && offset > 0;
  // Without a key no window has a cursor, so that any may be the last.
  if (!isPast && table.key.length > 0 && at === undefined) {
    return { rows: offset + count, kind: 'exact' };
  }
  const isContradicted = isPast && total !== undefined && total.rows > offset;
  return isContradicted ? { ...total, kind: 'estimate' } : total;
}

/** One row by its key; undefined where there is none. */
export async function answerRow(
  table: TableDescription,
  columns: readonly CheckedColumn[],
  key: readonly string[],
  executor: Executor,
): Promise<RowAnswer | undefined> {
  const row = await executor.row(table, columns, key);
  return row && { table: table.name, row };
}

/** The lines of the level that a grouping's path leads to. */
export async function answerGroups(
  query: Pick<Query, 'group' | 'path' | 'filter'>,
  grouping: CheckedGrouping,
  executor: Executor,
): Promise<GroupsAnswer> {
  const { levels, path, aggregates, table } = grouping;
  const found = await executor.lines(grouping);
  const above = levelFilter(query, grouping);
  const filterOf = lineFilter(query, grouping);
  const ownFilter = (value: Value): string | null => {
    // Of lines whose level cannot be stated none can be.
    const filter = above === 'unspoken' ? undefined : filterOf(pathValue(value));
    return filter === undefined ? null : printExpression(filter);
  };
  return {
    table: table.name,
    depth: path.length,
    levels: levels.map(resultColumn),
    aggregates: aggregates.map(resultColumn),
    path: (query.path ?? []).map((value) => executor.value(printPath([value]).slice(1, -1))),
    groups: found.lines.map((line): GroupLine => ({
      value: line.value,
      count: line.count,
      below: line.below,
      aggregates: line.aggregates,
      filter: ownFilter(line.value),
    })),
    // Once for all lines, which say only what is theirs.
    filter: typeof above === 'object' ? printExpression(above) : null,
    ...windowOf(grouping, found),
  };
}

/** The aggregates of a whole result. */
export async function answerAggregates(
  grouping: CheckedGrouping,
  executor: Executor,
): Promise<AggregatesAnswer> {
  const { aggregates, at } = await executor.aggregates(grouping);
  return {
    table: grouping.table.name,
    aggregates: grouping.aggregates.map(resultColumn),
    values: aggregates,
    ...asOf(at),
  };
}

/** The values that a column has under a query, with their counts; their range and histogram. */
export async function answerValues(
  column: string,
  { grouping, bins }: CheckedValues,
  executor: Executor,
): Promise<ValuesAnswer> {
  const [level] = grouping.levels;
  if (level === undefined) throw new Error('values are of one column');
  const [found, measures] = await Promise.all([
    executor.lines(grouping),
    measured(grouping, level.type, bins, executor),
  ]);
  return {
    table: grouping.table.name,
    column: resultColumn(level),
    values: found.lines.map(({ value, count }) => {
      const at = pathValue(value);
      const own = at && lineConditions(property(column), level, at);
      const filter = own && and(own);
      return {
        value,
        count: found.uncounted === true ? null : count,
        filter: filter === undefined ? null : printExpression(filter),
      };
    }),
    ...measures,
    ...windowOf(grouping, found),
  };
}

/** The leading sort values at up to `count` even positions of a result. */
export async function answerMileposts(
  query: CheckedQuery,
  count: number,
  executor: Executor,
): Promise<MilepostsAnswer> {
  const [leading] = query.sort;
  const { indexed, state, passed, total, ticks } = await executor.mileposts(query, count);
  return {
    table: query.table.name,
    column: leading?.column.name ?? '',
    descending: leading?.descending ?? false,
    indexed,
    state,
    passed,
    total: total?.rows ?? null,
    totalKind: total?.kind ?? 'none',
    ticks,
  };
}

function windowOf(
  { table, offset, limit, anchor, capped }: CheckedGrouping,
  { lines, total, next, previous, at, uncounted = false }: FoundLines,
): Pick<GroupsAnswer, 'window' | 'next' | 'previous'> {
  const window: Omit<Window, 'links'> = {
    offset: anchor === undefined ? offset : null,
    limit,
    ...(capped ? { rowCap: table.rowCap } : {}),
    count: lines.length,
    total: uncounted ? null : total,
    totalKind: uncounted ? 'none' : 'exact',
    ...asOf(at),
  };
  return {
    window: { ...window, links: linksAround(window, { next, previous }) },
    next,
    previous,
  };
}

function asOf(at: number | undefined): { asOf?: string } {
  return at === undefined ? {} : { asOf: timestamp(at) };
}

function timestamp(milliseconds: number): string {
  return new Date(milliseconds).toISOString();
}

/** A column of an answer, without what only the making of it needs. */
function resultColumn(made: ResultColumn): ResultColumn {
  const { name, label, type, encoding, format, valueLabels } = made;
  return {
    name,
    label,
    type,
    encoding,
    ...(format === undefined ? {} : { format }),
    ...(valueLabels === undefined ? {} : { valueLabels }),
  };
}

/** The value of a line as the filter language and a path have it. */
function pathValue(value: Value): PathValue | undefined {
  const json = value instanceof JsonText ? value.text : JSON.stringify(value);
  const read = parsePath(`[${json}]`);
  return 'path' in read ? read.path[0] : undefined;
}
