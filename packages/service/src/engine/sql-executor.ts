import { JsonText, type Executor, type FoundLine, type FoundTotal } from '@ephoros/core/answer';
import {
  keyValue,
  type CheckedAggregate,
  type CheckedGrouping,
  type CheckedQuery,
} from '@ephoros/core/check';
import type { TotalKind } from '@ephoros/core/query';
import {
  amongKeys,
  compileGroups,
  compileHistogram,
  compileRange,
  compileRow,
  compileRows,
  keyColumns,
  type Statement,
} from '@ephoros/core/sql';
import { expectTypes, rowEncoder, valueEncoder } from '../encode/index.ts';
import {
  countingOf,
  indexedOrderOf,
  orderKey,
  type IndexState,
  type Way,
} from '../positions/index.ts';
import { Failure, type Answer } from '../run/index.ts';
import type { Engine } from './engine.ts';
import { isReadOff, rangeOfLines } from './lines-range.ts';
import { expectLineTypes, readLevel, readLines } from './lines.ts';
import type { RequestContext } from './request-context.ts';
import { RowWindows, type WrittenRows } from './row-windows.ts';

type Row = Answer['rows'][number];

/** The statement that an answer came from. */
export interface Ran {
  /** In its readable form. */
  readonly statement: () => Statement;
  /** Of a window of rows: the query as it was run, and how the window was come to. */
  readonly rows?: { readonly query: CheckedQuery; readonly way: Way };
}

const nothing: WrittenRows = { json: '[]', count: 0, next: null, previous: null };

/** A row's number, counted from 1, with its leading sort value. */
interface Tick {
  readonly number: number;
  readonly value: string | null;
}

function leadingOf({ number, values: [value = null] }: IndexState['samples'][number]): Tick {
  return { number, value };
}

const nothingYet: IndexState = { state: 'waiting', samples: [], passed: 0 };

/** Finds what a question is about in the database, for one request. */
export class SqlExecutor implements Executor {
  /** The statement that the last answer came from; undefined where none was run. */
  ran: Ran | undefined;
  private readonly engine: Engine;
  private readonly context: RequestContext;

  constructor(engine: Engine, context: RequestContext) {
    this.engine = engine;
    this.context = context;
  }

  rows: Executor['rows'] = async (query) => {
    const windows = new RowWindows(this.engine, this.context);
    const [{ placed, found }, total] = await Promise.all([
      windows.find(query),
      query.total === 'none' || this.context.budget.afterWait === 'cancel'
        ? undefined
        : this.total(query, query.total, this.countingTime(query)),
    ]);
    const { locate } = this.context.catalog;
    if (found !== undefined) {
      const { query: run, way } = found;
      this.ran = { statement: () => compileRows(run, locate), rows: { query: run, way } };
    }
    const nextToRow = placed.anchor !== undefined;
    const written = this.context.tally.during('encode', () =>
      found === undefined ? nothing : found.write(query),
    );
    const places = found?.placed;
    const scanned = places?.scanned;
    return {
      ...written,
      rows: JsonText.rows(written.json),
      cut: found?.cut === true,
      nextToRow,
      total: scanned === undefined ? total : { rows: places?.total ?? 0, kind: 'estimate' },
      ...(found?.at === undefined ? {} : { at: found.at }),
      ...(scanned === undefined ? {} : { scanned: { rows: scanned.rows, of: scanned.of } }),
    };
  };

  row: Executor['row'] = async (table, columns, key) => {
    const values = table.key.map((name, index) => {
      const column = table.columns.find((one) => one.name === name);
      return column && keyValue(key[index] ?? '', column.type);
    });
    const whole = values.filter((value) => value !== undefined);
    // A value that the type cannot hold is the key of no row.
    if (whole.length < values.length) return undefined;
    const statement = compileRow(table, columns, whole, this.context.catalog.locate);
    const answer = await this.run(statement, table.name).catch((thrown: unknown) => {
      // Nor is what the database refuses as a value of the type.
      if (thrown instanceof Failure && thrown.kind === 'refused-value') return undefined;
      throw thrown;
    });
    if (answer === undefined) return undefined;
    expectTypes(answer.types, columns, this.context.catalog);
    const [row] = answer.rows;
    return row && JsonText.row(rowEncoder(columns)(row));
  };

  lines: Executor['lines'] = async (grouping) => {
    const { window, total, at, statement } = await readLines(grouping, this.engine, this.context);
    this.ran = { statement: () => statement };
    const { rows, next, previous } = window;
    const lines = this.context.tally.during('encode', () => encodeLines(grouping, rows));
    const { uncounted = false } = grouping;
    return { lines, total, next, previous, at, uncounted };
  };

  aggregates: Executor['aggregates'] = async (grouping) => {
    const { catalog } = this.context;
    const chosen = await this.engine.planChoice.groups(grouping, this.context);
    const statement = compileGroups(chosen, catalog.locate);
    const answer = await this.remembered(statement, grouping.table);
    expectLineTypes(answer, grouping, catalog);
    this.ran = { statement: () => statement };
    const [row = []] = answer.rows;
    const { at } = answer;
    return {
      aggregates: encodeAggregates(grouping.aggregates)(row),
      ...(at === undefined ? {} : { at }),
    };
  };

  range: Executor['range'] = async (grouping) => {
    const { catalog } = this.context;
    const [level] = grouping.levels;
    if (level === undefined) throw new Error('a range is of one column');
    const { type } = level;
    const { table } = grouping;
    const encode = valueEncoder(type);
    // Where all lines are read anyway, they are not looked through once more for their ends.
    if (isReadOff(type) && grouping.containing === undefined && grouping.uncounted !== true) {
      const { lines, total } = await readLevel(grouping, this.engine, this.context);
      if (lines.length === total) {
        const read = rangeOfLines(lines);
        return (
          read && {
            least: JsonText.value(encode(read.least)),
            greatest: JsonText.value(encode(read.greatest)),
            countIn: (bins) => Promise.resolve(read.countIn(bins)),
          }
        );
      }
    }
    const { rows, types } = await this.remembered(compileRange(grouping, catalog.locate), table);
    expectTypes(types, [{ type }, { type }], catalog);
    const [[least = null, greatest = null] = []] = rows;
    if (least === null || greatest === null) return undefined;
    return {
      least: JsonText.value(encode(least)),
      greatest: JsonText.value(encode(greatest)),
      countIn: async (bins) => {
        const statement = compileHistogram(grouping, { least, greatest, bins }, catalog.locate);
        const counted = await this.remembered(statement, table);
        return new Map(counted.rows.map(([bin, count]) => [Number(bin), Number(count)]));
      },
    };
  };

  mileposts: Executor['mileposts'] = async (query, count) => {
    const [leading] = query.sort;
    if (leading === undefined) throw new Error('a table with a key has a sort');
    const { positions } = this.engine;
    const counting = countingOf(query, this.context.catalog.locate);
    const known = await positions.overview(orderKey(query, counting.key), count);
    if (known === undefined) {
      await positions.begin(await indexedOrderOf(query, this.engine, this.context.catalog));
    }
    const total = await this.total(query, 'estimate', 0);
    const { state, samples, keys, passed } = known ?? nothingYet;
    const values = keys === undefined ? samples.map(leadingOf) : await this.valuesAt(query, keys);
    const encode = valueEncoder(leading.column.type);
    const ticks = values.map(({ number, value }) => ({
      // Numbers count from 1, offsets from 0.
      offset: number - 1,
      value: value === null ? null : JsonText.value(encode(value)),
    }));
    return { indexed: leading.column.indexed, state, passed, total, ticks };
  };

  value(json: string): ReturnType<Executor['value']> {
    return JsonText.value(json);
  }

  /** The leading sort values of rows by their keys. */
  private async valuesAt(
    query: CheckedQuery,
    places: NonNullable<IndexState['keys']>,
  ): Promise<readonly Tick[]> {
    const [leading] = query.sort;
    if (leading === undefined || places.length === 0) return [];
    const columns = [...keyColumns(query), leading.column];
    const among = amongKeys(
      { ...query, columns },
      places.map(({ key }) => key),
    );
    const { rows } = await this.run(
      compileRows(among, this.context.catalog.locate),
      query.table.name,
    );
    const width = columns.length;
    const values = new Map(
      rows.map((row) => [JSON.stringify(row.slice(0, width - 1)), row[width - 1] ?? null]),
    );
    return places.flatMap(({ number, key }) => {
      const value = values.get(JSON.stringify(key));
      return value === undefined ? [] : [{ number, value }];
    });
  }

  /** Ms that the rows wait for their total: an exact one as long as a caller waits who does not come back. */
  private countingTime({ awaitsTotal = false }: CheckedQuery): number {
    const { countingTime } = this.engine;
    const { budget } = this.context;
    const isAwaited = awaitsTotal && budget.afterWait === 'fail';
    return isAwaited ? Math.max(countingTime, budget.left) : countingTime;
  }

  /**
   * How many rows match, as far as it can be reported within so many ms. What the planner guesses, it
   * guesses from all rows: only callers who may see them all get it.
   */
  private async total(
    query: CheckedQuery,
    kind: Exclude<TotalKind, 'none'>,
    waitLimit: number,
  ): Promise<FoundTotal | undefined> {
    const { catalog, signal } = this.context;
    const counting = countingOf(query, catalog.locate);
    const wanted = catalog.ruled ? 'exact' : kind;
    const total = await this.engine.positions.total(counting, wanted, waitLimit, signal);
    return catalog.ruled && total?.kind === 'estimate' ? undefined : total;
  }

  private async run(statement: Statement, table: string, mayBeCut = false): Promise<Answer> {
    const { signal } = this.context;
    return this.timed(await this.engine.database.run(statement, { signal, table, mayBeCut }));
  }

  private async remembered(
    statement: Statement,
    { name, estimatedRows }: CheckedQuery['table'],
  ): Promise<Answer & { at?: number }> {
    const { signal, budget } = this.context;
    const options = { signal, table: name, rows: estimatedRows ?? undefined, budget };
    return this.timed(await this.engine.results.run(statement, options));
  }

  private timed<Timed extends Answer>(answer: Timed): Timed {
    this.context.tally.ran(answer);
    return answer;
  }
}

function encodeLines(grouping: CheckedGrouping, rows: readonly Row[]): readonly FoundLine[] {
  const level = grouping.levels[grouping.path.length];
  if (level === undefined) return [];
  const encode = valueEncoder(level.type, level.encoding);
  const aggregates = encodeAggregates(grouping.aggregates);
  return rows.map((row) => {
    const [value = null, count = null, below = null] = row;
    return {
      value: value === null ? null : JsonText.value(encode(value)),
      count: Number(count),
      below: below === null ? null : Number(below),
      aggregates: aggregates(row),
    };
  });
}

function encodeAggregates(
  aggregates: readonly CheckedAggregate[],
): (row: Row) => FoundLine['aggregates'] {
  const encoders = aggregates.map(({ name, type, encoding }, index) => {
    const encode = valueEncoder(type, encoding);
    // Behind the value, the count and the lines below.
    return (row: Row): [string, FoundLine['value']] => {
      const text = row[index + 3] ?? null;
      return [name, text === null ? null : JsonText.value(encode(text))];
    };
  });
  return (row) => Object.fromEntries(encoders.map((encode) => encode(row)));
}
