import type { CheckedGrouping, CheckedQuery } from '../check/index.ts';
import {
  arrangeRows,
  groupRows,
  histogramOf,
  type MemoryAnswer,
  type MemoryGroups,
  type MemoryOptions,
  type MemoryRow,
} from '../memory/index.ts';
import { isNumeric } from '../schema/index.ts';
import type { Executor, FoundLine } from './executor.ts';
import type { Row, Value } from './schemas.ts';

type Arranged = (window: CheckedQuery) => MemoryAnswer;

/** Results that are stored found and sorted at most. */
const mostArranged = 8;

/** Finds what a question is about in an array of rows. */
export class MemoryExecutor implements Executor {
  private readonly all: readonly MemoryRow[];
  private readonly options: MemoryOptions;
  private readonly arranged = new Map<string, Arranged>();

  constructor(rows: readonly MemoryRow[], options: MemoryOptions = {}) {
    this.all = rows;
    this.options = options;
  }

  rows: Executor['rows'] = (query) => {
    const { rows, total, next, previous } = this.arrange(query)(query);
    return Promise.resolve({
      rows: rows as readonly Row[],
      count: rows.length,
      cut: false,
      nextToRow: query.anchor !== undefined,
      total: { rows: total, kind: 'exact' },
      next,
      previous,
    });
  };

  row: Executor['row'] = ({ key: names }, columns, key) => {
    const found = this.all.find(
      (row) => names.length > 0 && names.every((name, index) => String(row[name]) === key[index]),
    );
    const own = found && columns.map(({ name }) => [name, found[name] ?? null] as const);
    return Promise.resolve(own && (Object.fromEntries(own) as Row));
  };

  lines: Executor['lines'] = (grouping) => {
    const { groups, ...window } = this.group(grouping);
    return Promise.resolve({ lines: groups as readonly FoundLine[], ...window });
  };

  aggregates: Executor['aggregates'] = (grouping) => {
    const [line] = this.group(grouping).groups;
    return Promise.resolve({ aggregates: (line?.aggregates ?? {}) as Row });
  };

  range: Executor['range'] = (grouping) => {
    const whole = { ...grouping, offset: 0, anchor: undefined, limit: Infinity };
    const values = this.group({ ...whole, sort: grouping.sort.filter(isOfValue) })
      .groups.map(({ value }) => value as Value)
      .filter((value) => value !== null && !(typeof value === 'string' && noDistance.has(value)));
    const [level] = grouping.levels;
    const sorted =
      level !== undefined && isNumeric(level.type)
        ? [...values].sort((one, other) => Number(one) - Number(other))
        : [...values].sort();
    const [least] = sorted;
    const greatest = sorted.at(-1);
    if (least === undefined || greatest === undefined) return Promise.resolve(undefined);
    const countIn = (bins: number): Promise<ReadonlyMap<number, number>> => {
      const counted = histogramOf(grouping, bins, this.all, this.options);
      return Promise.resolve(new Map(counted.map(({ bin, count }) => [bin, count])));
    };
    return Promise.resolve({ least, greatest, countIn });
  };

  mileposts: Executor['mileposts'] = (query, most) => {
    const [leading] = query.sort;
    const columns = leading === undefined ? [] : [leading.column];
    const whole = { ...query, columns, anchor: undefined, offset: 0, limit: Infinity };
    const { rows, total } = this.arrange(query)(whole);
    const count = Math.min(most, total);
    const ticks = Array.from({ length: count }, (_, index) => {
      const offset = count === 1 ? 0 : Math.round((index * (total - 1)) / (count - 1));
      const value = (rows[offset]?.[leading?.column.name ?? ''] ?? null) as Value;
      return { offset, value };
    });
    // At hand everything is as quick.
    const known = { indexed: true, state: 'ready', passed: total } as const;
    return Promise.resolve({ ...known, total: { rows: total, kind: 'exact' }, ticks });
  };

  value(json: string): Value {
    return JSON.parse(json) as Value;
  }

  /** Found and sorted once for all windows of a result. */
  private arrange(query: CheckedQuery): Arranged {
    const { filter, search, sort } = query;
    // As it was checked: what speaks of the present moment is another question at the next.
    const terms = sort.map(({ column, descending, nulls }) => [column.name, descending, nulls]);
    const key = JSON.stringify([filter, search?.terms, terms]);
    const made = this.arranged.get(key) ?? arrangeRows(query, this.all, this.options);
    this.arranged.delete(key);
    this.arranged.set(key, made);
    const [oldest] = this.arranged.keys();
    if (this.arranged.size > mostArranged && oldest !== undefined) this.arranged.delete(oldest);
    return made;
  }

  private group(grouping: CheckedGrouping): MemoryGroups {
    return groupRows(grouping, this.all, this.options);
  }
}

function isOfValue({ column }: CheckedGrouping['sort'][number]): boolean {
  return column.own === 'value';
}

/** Values that have no distance from others. */
const noDistance = new Set(['NaN', 'Infinity', '-Infinity', 'infinity', '-infinity']);
