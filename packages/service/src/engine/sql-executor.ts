import {
  JsonText,
  type Executor,
  type FoundLine,
  type FoundRows,
  type FoundTotal,
} from '@ephoros/core/answer';
import {
  keyValue,
  type CheckedAggregate,
  type CheckedColumn,
  type CheckedGrouping,
  type CheckedQuery,
} from '@ephoros/core/check';
import { inParameter, problem } from '@ephoros/core/problem';
import type { TotalKind } from '@ephoros/core/query';
import {
  compileGroups,
  compileHistogram,
  compileJsonRows,
  compileRange,
  compileRow,
  compileRows,
  mayBeCut,
  type Statement,
} from '@ephoros/core/sql';
import { expectTypes, rowEncoder, rowsEncoder, valueEncoder } from '../encode/index.ts';
import {
  countingOf,
  indexedOrderOf,
  orderKey,
  seek,
  type IndexState,
  type Way,
} from '../positions/index.ts';
import { jsonRowCursor, layOut, Refused, rowCursor } from '../question/index.ts';
import { Failure, type Answer } from '../run/index.ts';
import type { Engine } from './engine.ts';
import { expectLineTypes, readLines } from './lines.ts';
import type { RequestContext } from './request-context.ts';

type Row = Answer['rows'][number];

/** The statement that an answer came from. */
export interface Ran {
  /** In its readable form. */
  readonly statement: () => Statement;
  /** Of a window of rows: the query as it was run, and how the window was come to. */
  readonly rows?: { readonly query: CheckedQuery; readonly way: Way };
}

/** The rows of a window, found. */
interface Found {
  /** How many rows came, the one behind the window among them. */
  readonly rows: number;
  /** Whether there were more than an answer has room for. */
  readonly cut: boolean;
  /** Their JSON and the ways on, for the query as it was asked. */
  readonly write: (asked: CheckedQuery) => WrittenRows;
}

interface WrittenRows {
  readonly json: string;
  readonly count: number;
  readonly cuts?: FoundRows['cuts'];
  readonly next: string | null;
  readonly previous: string | null;
}

const nothing: WrittenRows = { json: '[]', count: 0, next: null, previous: null };

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
    const [sought, total] = await Promise.all([
      this.seekRows(query),
      // Neither the rows nor whoever waits for them wait longer than the counting time.
      query.total === 'none' ? undefined : this.total(query, query.total, this.engine.countingTime),
    ]);
    const { placed, found } = sought;
    const nextToRow = placed.anchor !== undefined;
    const written = this.context.timings.during('encode', () =>
      found === undefined ? nothing : found.write(query),
    );
    return {
      ...written,
      rows: JsonText.rows(written.json),
      cut: found?.cut === true,
      nextToRow,
      total,
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
    const lines = this.context.timings.during('encode', () => encodeLines(grouping, rows));
    return { lines, total, next, previous, at };
  };

  aggregates: Executor['aggregates'] = async (grouping) => {
    const { catalog } = this.context;
    const statement = compileGroups(grouping, catalog.locate);
    const answer = await this.remembered(statement, grouping.table.name);
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
    const table = grouping.table.name;
    const { rows, types } = await this.remembered(compileRange(grouping, catalog.locate), table);
    expectTypes(types, [{ type }, { type }], catalog);
    const [[least = null, greatest = null] = []] = rows;
    if (least === null || greatest === null) return undefined;
    const encode = valueEncoder(type);
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
    const { state, samples, passed } = known ?? nothingYet;
    const encode = valueEncoder(leading.column.type);
    const ticks = samples.map(({ number, values: [value = null] }) => ({
      // Numbers count from 1, offsets from 0.
      offset: number - 1,
      value: value === null ? null : JsonText.value(encode(value)),
    }));
    return { indexed: leading.column.indexed, state, passed, total, ticks };
  };

  value(json: string): ReturnType<Executor['value']> {
    return JsonText.value(json);
  }

  /** The rows of a window; none are asked for where it lies past the end. */
  private async seekRows(query: CheckedQuery): Promise<{
    /** The query that was asked, with its place as it was looked up. */
    placed: CheckedQuery;
    found: Found | undefined;
  }> {
    const placed = await this.nextToItsRow(query);
    const found = await this.selectedWindow(placed);
    if (found !== undefined) return { placed, found: found === 'none' ? undefined : found };
    return this.walkedWindow(placed);
  }

  /**
   * The window of a query among very many selected rows, by its own keys; none past the end.
   * Undefined for other queries, until the places of the rows are known, and where they are no more.
   */
  private async selectedWindow(query: CheckedQuery): Promise<Found | 'none' | undefined> {
    const { offset, limit } = query;
    const among = this.engine.selectedPlaces.window(query, this.context.catalog.locate);
    if (among === undefined) return undefined;
    if (among.query === undefined) return 'none';
    const way = { from: 'places', skip: offset, limit, edge: false } as const;
    const found = await this.window(among.query, way);
    if (found.cut || found.rows === among.rows) return found;
    // Some of them have gone: no window shall have holes.
    among.forget();
    return undefined;
  }

  /** The same by walking the query's order. */
  private async walkedWindow(
    placed: CheckedQuery,
  ): Promise<{ readonly placed: CheckedQuery; readonly found: Found | undefined }> {
    const { catalog, signal } = this.context;
    const { query: planned, way } = await seek(placed, this.engine, catalog, signal);
    if (planned === undefined) return { placed, found: undefined };
    const found = await this.window(planned, way);
    // What was come to from behind, and had too many bytes, has lost its beginning.
    const behind = planned.anchor !== undefined && planned.anchor.kind !== 'after';
    if (found.cut && behind && placed.anchor === undefined) {
      const { offset } = placed;
      return { placed, found: await this.window(placed, { ...way, from: 'start', skip: offset }) };
    }
    return { placed, found };
  }

  private async window(query: CheckedQuery, way: Way): Promise<Found> {
    const { catalog } = this.context;
    const plain = (): Statement => compileRows(query, catalog.locate);
    this.ran = { statement: plain, rows: { query, way } };
    const json = compileJsonRows(query, catalog.locate);
    const written = json && (await this.runJson(json.statement, query.table.name));
    if (written !== undefined) {
      const { cut, rows } = written;
      return { cut, rows: rows.length, write: (asked) => writeJsonRows(asked, query, written) };
    }
    const answer = await this.run(plain(), query.table.name, true);
    // Of a cut cell a text came, whatever its type.
    const expected = query.columns.map((column) => (mayBeCut(column, query) ? undefined : column));
    expectTypes(answer.types, expected, catalog);
    const { cut, rows } = answer;
    return { cut, rows: rows.length, write: (asked) => writeRows(asked, query, answer) };
  }

  /** Undefined where a column has another type by now: the plain rows tell whether that matters. */
  private async runJson(statement: Statement, table: string): Promise<Answer | undefined> {
    try {
      return await this.run(statement, table, true);
    } catch (thrown) {
      if (thrown instanceof Failure && thrown.kind === 'changed') return undefined;
      throw thrown;
    }
  }

  /** A query whose cursor held a key alone, with the sort values of that row. @throws Refused */
  private async nextToItsRow({ anchorRow, ...query }: CheckedQuery): Promise<CheckedQuery> {
    if (anchorRow === undefined) return query;
    const { kind, key } = anchorRow;
    const { table, sort } = query;
    const columns = sort.map(({ column }): CheckedColumn => column);
    const values = key.map((value) => value ?? '');
    const statement = compileRow(table, columns, values, this.context.catalog.locate);
    const { signal } = this.context;
    const { rows } = await this.engine.database.run(statement, { signal, table: table.name });
    const [row] = rows;
    if (row === undefined) throw new Refused(inParameter(kind, [problem('cursor-row-gone', {})]));
    return { ...query, anchor: { kind, values: row } };
  }

  /**
   * How many rows match, as far as it can be told within so many ms. What the planner guesses, it
   * guesses from all rows: nobody is told it who may not see them all.
   */
  private async total(
    query: CheckedQuery,
    kind: Exclude<TotalKind, 'none'>,
    patience: number,
  ): Promise<FoundTotal | undefined> {
    const { catalog, signal } = this.context;
    const counting = countingOf(query, catalog.locate);
    const wanted = catalog.ruled ? 'exact' : kind;
    const total = await this.engine.positions.total(counting, wanted, patience, signal);
    return catalog.ruled && total?.kind === 'estimate' ? undefined : total;
  }

  private async run(statement: Statement, table: string, mayBeCut = false): Promise<Answer> {
    const { signal } = this.context;
    return this.timed(await this.engine.database.run(statement, { signal, table, mayBeCut }));
  }

  private async remembered(statement: Statement, table: string): Promise<Answer & { at?: number }> {
    const { signal } = this.context;
    return this.timed(await this.engine.results.run(statement, { signal, table }));
  }

  private timed<Timed extends Answer>(answer: Timed): Timed {
    this.context.timings.add('wait', answer.waited);
    this.context.timings.add('database', answer.ran);
    return answer;
  }
}

/** Rows that the database has written as JSON. */
function writeJsonRows(asked: CheckedQuery, run: CheckedQuery, answer: Answer): WrittenRows {
  const { rows, next, previous } = layOut(asked, run, answer, jsonRowCursor(asked));
  const json = `[${rows.map(([row]) => row).join(',')}]`;
  return { json, count: rows.length, next, previous };
}

function writeRows(asked: CheckedQuery, run: CheckedQuery, answer: Answer): WrittenRows {
  const { rows, next, previous } = layOut(asked, run, answer, rowCursor(asked));
  const { json, cuts } = rowsEncoder(asked)(rows);
  const told = asked.cells === undefined ? {} : { cuts };
  return { json, ...told, count: rows.length, next, previous };
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
