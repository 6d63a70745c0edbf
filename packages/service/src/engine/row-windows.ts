import type { FoundRows } from '@ephoros/core/answer';
import { sortSignature, type CheckedQuery } from '@ephoros/core/check';
import { printCursor } from '@ephoros/core/query';
import {
  amongKeys,
  compileJsonRows,
  compileRows,
  cursorColumns,
  keyColumns,
  mayBeCut,
  type Statement,
} from '@ephoros/core/sql';
import { expectTypes, rowsEncoder } from '../encode/index.ts';
import {
  beginPlaces,
  noteGroup,
  scan,
  seek,
  type PlacedKeys,
  type Way,
} from '../positions/index.ts';
import { jsonRowCursor, layOut, rowCursor, type RowsWindow } from '../query/index.ts';
import { Failure, type Answer, type CachedAnswer, type WaitBudget } from '../run/index.ts';
import { nextToItsRow } from './anchor-row.ts';
import type { Engine } from './engine.ts';
import type { OtherWay, DeferringOptions } from './deferring-database.ts';
import type { RequestContext } from './request-context.ts';

type Row = Answer['rows'][number];

/** The rows of a window, found. */
export interface Found {
  /** The query as it was run, and how the window was come to. */
  readonly query: CheckedQuery;
  readonly way: Way;
  /** How many rows came, the one behind the window among them. */
  readonly rows: number;
  /** Whether there were more than an answer has room for. */
  readonly cut: boolean;
  /** Their JSON and the ways on, for the query as it was sent. */
  readonly write: (query: CheckedQuery) => WrittenRows;
  /** When they were read, in ms since 1970, where that was not for this very question. */
  readonly at?: number | undefined;
  /** Where the window was found by places: what these tell of the whole. */
  readonly placed?: PlacedKeys;
}

export interface WrittenRows {
  readonly json: string;
  readonly count: number;
  readonly cuts?: FoundRows['cuts'];
  readonly next: string | null;
  readonly previous: string | null;
}

type WindowOptions = DeferringOptions & { readonly budget: WaitBudget };

/** Costs of the planner from which on an order is worth being sorted as a whole. */
const costly = 40_000;
/** Times that a window is looked up again whose rows have gone. */
const tries = 3;

/** Finds the windows of a result for one request. */
export class RowWindows {
  private readonly engine: Engine;
  private readonly context: RequestContext;

  constructor(engine: Engine, context: RequestContext) {
    this.engine = engine;
    this.context = context;
  }

  /**
   * The rows of a window; none are found where it lies past the end. `placed` is the query with its place
   * as it was looked up. @throws Refused, Failure, NotReady
   */
  async find(
    query: CheckedQuery,
  ): Promise<{ readonly placed: CheckedQuery; readonly found: Found | undefined }> {
    const { budget } = this.context;
    const placed = await nextToItsRow(query, this.engine, this.context);
    const selected = await this.selectedWindow(placed, budget);
    if (selected !== undefined) {
      return { placed, found: selected === 'none' ? undefined : selected };
    }
    return this.soughtWindow(placed, budget);
  }

  /**
   * The window of a query among very many selected rows, by its own keys; none past the end.
   * Undefined for other queries, until the places of the rows are known, and where they are no more.
   */
  private async selectedWindow(
    query: CheckedQuery,
    budget: WaitBudget,
  ): Promise<Found | 'none' | undefined> {
    const { offset, limit } = query;
    const among = this.engine.selectedPlaces.window(query, this.context.catalog.locate);
    if (among === undefined) return undefined;
    if (among.query === undefined) return 'none';
    const way = { from: 'places', skip: offset, limit, edge: false } as const;
    const found = await this.window(among.query, way, budget);
    if (found.cut || found.rows === among.rows) return found;
    // Some of them have gone: no window shall have holes.
    among.forget();
    return undefined;
  }

  /** The same by places, or by walking the query's order. */
  private async soughtWindow(
    placed: CheckedQuery,
    budget: WaitBudget,
  ): Promise<{ readonly placed: CheckedQuery; readonly found: Found | undefined }> {
    const { catalog, signal } = this.context;
    const plan = await seek(placed, this.engine, catalog, { signal, budget });
    const { query: planned, way } = plan;
    if (plan.placed !== undefined) {
      return { placed, found: await this.byKeys(placed, plan.placed, budget) };
    }
    if (planned === undefined) return { placed, found: undefined };
    const found = await this.window(planned, way, budget, placed);
    // What was come to from behind, and had too many bytes, has lost its beginning.
    const behind = planned.anchor !== undefined && planned.anchor.kind !== 'after';
    if (found.cut && behind && placed.anchor === undefined) {
      const { offset } = placed;
      const fromStart = { ...way, from: 'start', skip: offset } as const;
      return { placed, found: await this.window(placed, fromStart, budget) };
    }
    return { placed, found };
  }

  /** A window by the keys of its rows. Those that have gone are reported, and others take their places. */
  private async byKeys(
    wanted: CheckedQuery,
    window: PlacedKeys,
    budget: WaitBudget,
    turn = 1,
  ): Promise<Found> {
    const { limit, offset } = wanted;
    const way = { from: 'places', skip: offset, limit, edge: false } as const;
    const { keys, key: order } = window;
    const query = amongKeys(wanted, keys);
    if (keys.length === 0) {
      const write = (): WrittenRows => ({ json: '[]', count: 0, ...waysOn(wanted, window, []) });
      return { query, way, rows: 0, cut: false, write, placed: window };
    }
    const { answer, isJson } = await this.read<never>(query, undefined, (statement) =>
      this.run(statement, this.queryOptionsOf(query, budget)),
    );
    const places = keyPlaces(query, isJson);
    const numbers = new Map(keys.map((key, index) => [JSON.stringify(key), index]));
    const rows: (Row | undefined)[] = keys.map(() => undefined);
    for (const row of answer.rows) {
      const at = numbers.get(JSON.stringify(places.map((place) => row[place])));
      if (at !== undefined) rows[at] = row;
    }
    const there = rows.filter((row) => row !== undefined);
    if (there.length < keys.length && !answer.cut && turn < tries) {
      const gone = keys.filter((_key, index) => rows[index] === undefined);
      await this.engine.positions.lose(order, gone, window.begin + window.offset);
      const { catalog, signal } = this.context;
      const again = await seek(wanted, this.engine, catalog, { signal, budget });
      if (again.placed !== undefined) return this.byKeys(wanted, again.placed, budget, turn + 1);
    }
    const laid = { ...waysOn(wanted, window, there, isJson), rows: there };
    const write = (): WrittenRows => (isJson ? writeJson(laid) : writeRows(wanted, laid));
    const at = window.outdated ? window.at : answer.at;
    return { query, way, rows: there.length, cut: answer.cut, at, write, placed: window };
  }

  /**
   * A window by its own statement. Where that takes long, what it was `asked` for is looked through chunk by chunk
   * instead, if that can be done; else the statement goes on, and the request comes again.
   */
  private async window(
    sorted: CheckedQuery,
    way: Way,
    budget: WaitBudget,
    wanted?: CheckedQuery,
  ): Promise<Found> {
    const { planChoice } = this.engine;
    const query = await planChoice.rows(sorted, this.context);
    const scanned = wanted !== undefined && query.table.key.length > 0;
    const { filter, search } = query;
    const { catalog } = this.context;
    // Whether a walk finds a window's rows soon is a guess where they have to meet something.
    const mayBeLong = filter !== undefined || search !== undefined || catalog.ruled;
    const other = query.byParents !== undefined && mayBeLong ? sorted : undefined;
    const found = await this.read(query, other, (statement, otherStatement) => {
      const taken = (): void => planChoice.refuseWalk(sorted, this.context);
      const otherWay = otherStatement && { statement: otherStatement, taken };
      const options = this.queryOptionsOf(query, budget, otherWay);
      return scanned ? this.runOrScan(statement, wanted, options) : this.run(statement, options);
    });
    if ('placed' in found) return this.byKeys(wanted ?? query, found.placed, budget);
    const { answer, isJson } = found;
    const { cut, rows } = answer;
    const write = (original: CheckedQuery): WrittenRows => {
      const cursor = isJson ? jsonRowCursor(original) : rowCursor(original);
      const laid = layOut(original, query, answer, cursor);
      return isJson ? writeJson(laid) : writeRows(original, laid);
    };
    return { query, way, cut, rows: rows.length, at: answer.at, write };
  }

  /**
   * The rows of a query, by a statement that `run` has the answer of; or what it gives instead. It is reported the same
   * statement of another query as well, if there is one.
   */
  private async read<Other extends { readonly placed: PlacedKeys }>(
    query: CheckedQuery,
    other: CheckedQuery | undefined,
    run: (statement: Statement, other: Statement | undefined) => Promise<CachedAnswer | Other>,
  ): Promise<{ readonly answer: CachedAnswer; readonly isJson: boolean } | Other> {
    const { catalog } = this.context;
    const json = compileJsonRows(query, catalog.locate);
    if (json !== undefined) {
      try {
        const otherJson = other && compileJsonRows(other, catalog.locate);
        const answer = await run(json.statement, otherJson?.statement);
        return 'placed' in answer ? answer : { answer, isJson: true };
      } catch (thrown) {
        // A column has another type by now: the plain rows tell whether that matters.
        if (!(thrown instanceof Failure) || thrown.kind !== 'changed') throw thrown;
      }
    }
    const otherRows = other && compileRows(other, catalog.locate);
    const answer = await run(compileRows(query, catalog.locate), otherRows);
    if ('placed' in answer) return answer;
    // Of a cut cell a text came, whatever its type.
    const expected = query.columns.map((column) => (mayBeCut(column, query) ? undefined : column));
    expectTypes(answer.types, expected, catalog);
    return { answer, isJson: false };
  }

  private queryOptionsOf(
    { table }: CheckedQuery,
    budget: WaitBudget,
    otherWay?: OtherWay,
  ): WindowOptions {
    const { signal } = this.context;
    return { signal, table: table.name, mayBeCut: true, budget, otherWay };
  }

  /** Runs a statement for a window, as long as a request waits. @throws Failure, NotReady */
  private async run(statement: Statement, options: WindowOptions): Promise<CachedAnswer> {
    return this.timed(await this.engine.deferring.run(statement, options));
  }

  /** The same, unless the table is looked through chunk by chunk instead. */
  private async runOrScan(
    statement: Statement,
    query: CheckedQuery,
    options: WindowOptions,
  ): Promise<CachedAnswer | { readonly placed: PlacedKeys }> {
    const { signal, catalog } = this.context;
    const { deferring, placedOrders } = this.engine;
    const { budget } = options;
    const found = await deferring.unless(statement, options, async (cost, giveUp) => {
      await noteGroup(query, this.engine, catalog);
      const placed = await scan(query, this.engine, catalog, { signal, budget, giveUp });
      if (placed !== undefined) return { placed };
      // Anyone who reads on in such an order is better served by places.
      const further = query.offset > 0 || query.anchor !== undefined;
      if (!(further || placedOrders.has(query)) || cost <= costly) return undefined;
      const known = await beginPlaces(query, this.engine, catalog, signal);
      if (known === undefined) return undefined;
      giveUp();
      return { placed: known };
    });
    return 'placed' in found ? found : this.timed(found);
  }

  private timed<Timed extends Answer>(answer: Timed): Timed {
    this.context.tally.ran(answer);
    return answer;
  }
}

/** The cursors at the ends of a window by places. */
function waysOn(
  query: CheckedQuery,
  { offset, more, complete, scanned }: PlacedKeys,
  rows: readonly Row[],
  isJson = false,
): Pick<RowsWindow, 'next' | 'previous'> {
  const cursor = isJson ? jsonRowCursor(query) : rowCursor(query);
  const [first] = rows;
  const last = rows.at(-1);
  const behind = last === undefined ? undefined : cursor?.(last);
  const edge = scanned?.edge;
  // Where nothing more is known to follow, it goes on behind what was looked through so far.
  const further = edge === undefined ? behind : edgeCursor(query, edge);
  return {
    next: (more ? behind : complete ? undefined : further) ?? null,
    previous: (offset > 0 && first !== undefined ? cursor?.(first) : undefined) ?? null,
  };
}

function edgeCursor({ sort }: CheckedQuery, values: readonly (string | null)[]): string {
  return printCursor({ sort: sortSignature(sort), values });
}

/** Where the parts of the key stand in the rows that came. */
function keyPlaces(query: CheckedQuery, isJson: boolean): readonly number[] {
  return keyColumns(query).map(({ name }) => {
    // Behind the JSON stand the sort's columns.
    if (isJson) return 1 + query.sort.findIndex(({ column }) => column.name === name);
    const further = cursorColumns(query).findIndex((column) => column.name === name);
    if (further !== -1) return query.columns.length + further;
    return query.columns.findIndex((column) => column.name === name);
  });
}

/** Rows that the database has written as JSON. */
function writeJson({ rows, next, previous }: RowsWindow): WrittenRows {
  const json = `[${rows.map(([row]) => row).join(',')}]`;
  return { json, count: rows.length, next, previous };
}

function writeRows(query: CheckedQuery, { rows, next, previous }: RowsWindow): WrittenRows {
  const { json, cuts } = rowsEncoder(query)(rows);
  const reported = query.cells === undefined ? {} : { cuts };
  return { json, ...reported, count: rows.length, next, previous };
}
