import {
  checkAggregates,
  checkGrouping,
  checkQuery,
  checkValuesOf,
  levelFilter,
  lineFilter,
  type CheckedGrouping,
  type CheckedQuery,
} from '@ephoros/core/check';
import { edgesBetween } from '@ephoros/core/decimal';
import { parsePath, printExpression, property, type PathValue } from '@ephoros/core/expression';
import {
  arrangeRows,
  groupRows,
  histogramOf,
  unicodeOrder,
  type MemoryAnswer,
  type MemoryGroup,
  type MemoryGroups,
  type TextOrder,
} from '@ephoros/core/memory';
import { momentsBetween } from '@ephoros/core/moment';
import type { Problem } from '@ephoros/core/problem';
import {
  parseParameters,
  printParameters,
  groupsPart,
  matchPart,
  rowsPart,
  termOf,
  windowPart,
  type Query,
  type WrittenQuery,
} from '@ephoros/core/query';
import {
  isMeasured,
  isNumeric,
  type ColumnType,
  type ResultColumn,
  type TableDescription,
} from '@ephoros/core/schema';
import type {
  AggregatesAnswer,
  GroupLine,
  GroupsAnswer,
  MilepostsAnswer,
  Row,
  RowsAnswer,
  Value,
  ValuesAnswer,
  Window,
} from '../answers.ts';
import type { ValuesOptions } from '../client.ts';
import { ServiceError } from '../service-error.ts';
import type { LocalTable } from './table.ts';

type Checked<Part> = Part | { readonly problems: readonly Problem[] };
type Arranged = (window: CheckedQuery) => MemoryAnswer;

/** Results that are kept found and sorted at most. */
const mostArranged = 8;

/** Answers questions about rows at hand, as the service would about a table that holds them. */
export class LocalAnswers {
  readonly description: TableDescription;
  private readonly rowsAtHand: LocalTable['rows'];
  private readonly textOrder: TextOrder;
  private readonly arranged = new Map<string, Arranged>();

  constructor({ description, rows }: LocalTable, textOrder: TextOrder = unicodeOrder) {
    this.description = description;
    this.rowsAtHand = rows;
    this.textOrder = textOrder;
  }

  /** What would refuse a question for rows; none where it can be answered. */
  problemsOf(query: WrittenQuery): readonly Problem[] {
    const read = reading(query);
    const checked = checkQuery(read.query, this.description);
    return [...read.problems, ...('problems' in checked ? checked.problems : [])];
  }

  /** @throws ServiceError where the question is refused */
  rows(query: WrittenQuery): RowsAnswer {
    const { checked } = this.check(rowsPart(query), (read) => checkQuery(read, this.description));
    const answer = this.arrange(checked)(checked);
    const { offset, limit, beside, capped, columns, table } = checked;
    return {
      table: table.name,
      columns: columns.map(({ name }) => name),
      rows: answer.rows as readonly Row[],
      window: {
        offset: beside === undefined ? offset : null,
        limit,
        ...(capped ? { rowCap: table.rowCap } : {}),
        count: answer.rows.length,
        total: answer.total,
        totalKind: 'exact',
      },
      next: answer.next,
      previous: answer.previous,
    };
  }

  /** One row by its key; undefined where there is none. */
  row(key: readonly (string | number)[]): Row | undefined {
    const names = this.description.key;
    return this.rowsAtHand.find((row) =>
      names.every((name, index) => String(row[name]) === String(key[index])),
    ) as Row | undefined;
  }

  groups(query: WrittenQuery): GroupsAnswer {
    const { asked, checked } = this.check({ ...groupsPart(query), ...windowPart(query) }, (read) =>
      checkGrouping(read, this.description),
    );
    const answer = this.group(checked);
    const above = levelFilter(asked, checked);
    const ownFilter = lineFilter(asked, checked);
    // Of lines whose level cannot be said none can be.
    const filterOf: typeof ownFilter = (value) =>
      above === 'unspoken' ? undefined : ownFilter(value);
    return {
      table: this.description.name,
      depth: checked.path.length,
      levels: checked.levels.map(resultColumn),
      aggregates: checked.aggregates.map(resultColumn),
      groups: answer.groups.map((line): GroupLine => {
        const filter = filterOf(pathValue(line.value));
        return {
          ...(line as MemoryGroup & Pick<GroupLine, 'value' | 'aggregates'>),
          filter: filter === undefined ? null : printExpression(filter),
        };
      }),
      path: (query.path ?? []).map(valueOfPath),
      filter: typeof above === 'object' ? printExpression(above) : null,
      window: windowOf(checked, answer),
      next: answer.next,
      previous: answer.previous,
    };
  }

  aggregates(query: WrittenQuery): AggregatesAnswer {
    const { aggregate } = query;
    const asked: WrittenQuery = { ...matchPart(query), ...(aggregate && { aggregate }) };
    const { checked } = this.check(asked, (read) => {
      const counted = [termOf({ kind: 'call', name: 'count', args: [], span: nowhere })];
      return checkAggregates({ ...read, aggregate: read.aggregate ?? counted }, this.description);
    });
    const [line] = this.group(checked).groups;
    return {
      table: this.description.name,
      aggregates: checked.aggregates.map(resultColumn),
      values: (line?.aggregates ?? {}) as Readonly<Record<string, Value>>,
    };
  }

  values(
    column: string,
    query: WrittenQuery,
    { containing, bins }: ValuesOptions = {},
  ): ValuesAnswer {
    const {
      group: _group,
      aggregate: _aggregate,
      path: _path,
      columns: _columns,
      ...asked
    } = query;
    const { checked } = this.check(asked, (read) =>
      checkValuesOf(
        read,
        { column, containing: containing === '' ? undefined : containing, bins },
        this.description,
      ),
    );
    const { grouping } = checked;
    const [level] = grouping.levels;
    if (level === undefined) throw new Error('values are of one column');
    const term = termOf(property(column));
    const filterOf = lineFilter({ group: [term] }, grouping);
    const answer = this.group(grouping);
    return {
      table: this.description.name,
      column: resultColumn(level),
      values: answer.groups.map(({ value, count }) => {
        const filter = filterOf(pathValue(value));
        return {
          value: value as Value,
          count,
          filter: filter === undefined ? null : printExpression(filter),
        };
      }),
      ...this.measure(grouping, level.type, checked.bins),
      window: windowOf(grouping, answer),
      next: answer.next,
      previous: answer.previous,
    };
  }

  mileposts(query: WrittenQuery, ticks: number): MilepostsAnswer {
    const { limit: _limit, place: _place, ...asked } = rowsPart(query);
    const { checked } = this.check(asked, (read) => checkQuery(read, this.description));
    const [leading] = checked.sort;
    const column = leading?.column.name ?? '';
    const all = { ...checked, columns: leading ? [leading.column] : [], beside: undefined };
    const { rows, total } = this.arrange(checked)({ ...all, offset: 0, limit: Infinity });
    const count = Math.min(ticks, total);
    return {
      table: this.description.name,
      column,
      descending: leading?.descending ?? false,
      indexed: true,
      state: 'ready',
      passed: total,
      total,
      totalKind: 'exact',
      ticks: Array.from({ length: count }, (_, index) => {
        const offset = count === 1 ? 0 : Math.round((index * (total - 1)) / (count - 1));
        return { offset, value: (rows[offset]?.[column] ?? null) as Value };
      }),
    };
  }

  private check<Part extends { readonly checked: unknown }>(
    query: WrittenQuery,
    check: (query: Query) => Checked<Part>,
  ): { readonly asked: Query; readonly checked: Part['checked'] } {
    const read = reading(query);
    const checked = check(read.query);
    const problems = [...read.problems, ...('problems' in checked ? checked.problems : [])];
    if ('problems' in checked || problems.length > 0) {
      const message = problems.map((one) => one.message).join(' ');
      throw new ServiceError('refused', message, { status: 400, problems });
    }
    return { asked: read.query, checked: checked.checked };
  }

  /** Found and sorted once for all windows of a result. */
  private arrange(checked: CheckedQuery): Arranged {
    const { filter, search, sort } = checked;
    // As it was checked: what speaks of the present moment is another question at the next.
    const terms = sort.map(({ column, descending, nulls }) => [column.name, descending, nulls]);
    const key = JSON.stringify([filter, search?.terms, terms]);
    const made =
      this.arranged.get(key) ??
      arrangeRows(checked, this.rowsAtHand, { textOrder: this.textOrder });
    this.arranged.delete(key);
    this.arranged.set(key, made);
    const [oldest] = this.arranged.keys();
    if (this.arranged.size > mostArranged && oldest !== undefined) this.arranged.delete(oldest);
    return made;
  }

  private group(grouping: CheckedGrouping): MemoryGroups {
    return groupRows(grouping, this.rowsAtHand, { textOrder: this.textOrder });
  }

  private measure(
    grouping: CheckedGrouping,
    type: ColumnType,
    bins: number | undefined,
  ): Pick<ValuesAnswer, 'range' | 'histogram'> {
    if (!isMeasured(type)) return {};
    const all = { ...grouping, offset: 0, beside: undefined, limit: Infinity };
    const values = this.group({ ...all, sort: grouping.sort.filter(isOfValue) })
      .groups.map(({ value }) => value as Value)
      .filter((value) => value !== null && !noDistance.has(plain(value)));
    const sorted = isNumeric(type)
      ? [...values].sort((one, other) => Number(one) - Number(other))
      : [...values].sort();
    const [least] = sorted;
    const greatest = sorted.at(-1);
    if (least === undefined || greatest === undefined) return { range: null };
    const range = { least, greatest };
    if (bins === undefined) return { range };
    const textOrder = { textOrder: this.textOrder };
    const counted = histogramOf(grouping, bins, this.rowsAtHand, textOrder);
    const counts = new Map(counted.map(({ bin, count }) => [bin, count]));
    const edges = edgesOf(type, least, greatest, bins);
    return {
      range,
      histogram: Array.from({ length: bins }, (_, bin) => ({
        from: edges[bin] ?? null,
        to: edges[bin + 1] ?? null,
        count: counts.get(bin) ?? 0,
      })),
    };
  }
}

const nowhere = { start: 0, end: 0 };

function reading(query: WrittenQuery): ReturnType<typeof parseParameters> {
  return parseParameters(Object.fromEntries(printParameters(query)));
}

function isOfValue({ column }: CheckedGrouping['sort'][number]): boolean {
  return column.own === 'value';
}

function windowOf(
  { table, offset, limit, beside, capped }: CheckedGrouping,
  { groups, total }: MemoryGroups,
): Window {
  return {
    offset: beside === undefined ? offset : null,
    limit,
    ...(capped ? { rowCap: table.rowCap } : {}),
    count: groups.length,
    total,
    totalKind: 'exact',
  };
}

/** Values that have no distance from others. */
const noDistance = new Set(['NaN', 'Infinity', '-Infinity', 'infinity', '-infinity']);

function resultColumn({ name, label, type, encoding, format }: ResultColumn): ResultColumn {
  return { name, label, type, encoding, ...(format === undefined ? {} : { format }) };
}

function pathValue(value: unknown): Parameters<ReturnType<typeof lineFilter>>[0] {
  const read = parsePath(JSON.stringify([value]));
  return 'path' in read ? read.path[0] : undefined;
}

function valueOfPath(value: PathValue): Value {
  if (value.kind === 'null') return null;
  return value.kind === 'number' ? Number(value.value) : value.value;
}

function edgesOf(
  type: ColumnType,
  least: Value,
  greatest: Value,
  bins: number,
): readonly (Value | undefined)[] {
  const [low, high] = [plain(least), plain(greatest)];
  if (isNumeric(type)) {
    const asNumbers = type.kind === 'integer' && type.bits !== 64;
    return edgesBetween(low, high, bins).map((edge) =>
      asNumbers || type.kind === 'float' ? Number(edge) : edge,
    );
  }
  const zone = type.kind === 'timestamp' && type.zone ? 'Z' : '';
  const inside = momentsBetween(low, high, bins, type.kind === 'date').map((text) =>
    text === undefined ? null : `${text}${zone}`,
  );
  return [least, ...inside.slice(1, -1), greatest];
}

function plain(value: Value): string {
  return typeof value === 'string' ? value : JSON.stringify(value);
}
