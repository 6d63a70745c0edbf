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
import { jsonRowCursor, layOut, rowCursor, type RowsWindow } from '../question/index.ts';
import { Failure, Patience, type Answer, type CachedAnswer } from '../run/index.ts';
import { nextToItsRow } from './anchor-row.ts';
import type { Engine } from './engine.ts';
import type { OtherWay, PatientAsking } from './patient.ts';
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
  /** Their JSON and the ways on, for the query as it was asked. */
  readonly write: (asked: CheckedQuery) => WrittenRows;
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

type WindowAsking = PatientAsking & { readonly patience: Patience };

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
    const patience = new Patience(this.engine.patience);
    const placed = await nextToItsRow(query, this.engine, this.context);
    const selected = await this.selectedWindow(placed, patience);
    if (selected !== undefined) {
      return { placed, found: selected === 'none' ? undefined : selected };
    }
    return this.soughtWindow(placed, patience);
  }

  /**
   * The window of a query among very many selected rows, by its own keys; none past the end.
   * Undefined for other queries, until the places of the rows are known, and where they are no more.
   */
  private async selectedWindow(
    query: CheckedQuery,
    patience: Patience,
  ): Promise<Found | 'none' | undefined> {
    const { offset, limit } = query;
    const among = this.engine.selectedPlaces.window(query, this.context.catalog.locate);
    if (among === undefined) return undefined;
    if (among.query === undefined) return 'none';
    const way = { from: 'places', skip: offset, limit, edge: false } as const;
    const found = await this.window(among.query, way, patience);
    if (found.cut || found.rows === among.rows) return found;
    // Some of them have gone: no window shall have holes.
    among.forget();
    return undefined;
  }

  /** The same by places, or by walking the query's order. */
  private async soughtWindow(
    placed: CheckedQuery,
    patience: Patience,
  ): Promise<{ readonly placed: CheckedQuery; readonly found: Found | undefined }> {
    const { catalog, signal } = this.context;
    const plan = await seek(placed, this.engine, catalog, { signal, patience });
    const { query: planned, way } = plan;
    if (plan.placed !== undefined) {
      return { placed, found: await this.byKeys(placed, plan.placed, patience) };
    }
    if (planned === undefined) return { placed, found: undefined };
    const found = await this.window(planned, way, patience, placed);
    // What was come to from behind, and had too many bytes, has lost its beginning.
    const behind = planned.anchor !== undefined && planned.anchor.kind !== 'after';
    if (found.cut && behind && placed.anchor === undefined) {
      const { offset } = placed;
      const fromStart = { ...way, from: 'start', skip: offset } as const;
      return { placed, found: await this.window(placed, fromStart, patience) };
    }
    return { placed, found };
  }

  /** A window by the keys of its rows. Those that have gone are told, and others take their places. */
  private async byKeys(
    asked: CheckedQuery,
    window: PlacedKeys,
    patience: Patience,
    turn = 1,
  ): Promise<Found> {
    const { limit, offset } = asked;
    const way = { from: 'places', skip: offset, limit, edge: false } as const;
    const { keys, key: order } = window;
    const query = amongKeys(asked, keys);
    if (keys.length === 0) {
      const write = (): WrittenRows => ({ json: '[]', count: 0, ...waysOn(asked, window, []) });
      return { query, way, rows: 0, cut: false, write, placed: window };
    }
    const { answer, isJson } = await this.read<never>(query, undefined, (statement) =>
      this.run(statement, this.askingOf(query, patience)),
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
      const again = await seek(asked, this.engine, catalog, { signal, patience });
      if (again.placed !== undefined) return this.byKeys(asked, again.placed, patience, turn + 1);
    }
    const laid = { ...waysOn(asked, window, there, isJson), rows: there };
    const write = (): WrittenRows => (isJson ? writeJson(laid) : writeRows(asked, laid));
    const at = window.outdated ? window.at : answer.at;
    return { query, way, rows: there.length, cut: answer.cut, at, write, placed: window };
  }

  /**
   * A window by its own statement. Where that takes long, what it was `asked` for is looked through slice by slice
   * instead, if that can be done; else the statement goes on, and the request comes again.
   */
  private async window(
    sorted: CheckedQuery,
    way: Way,
    patience: Patience,
    asked?: CheckedQuery,
  ): Promise<Found> {
    const { planChoice } = this.engine;
    const query = await planChoice.rows(sorted, this.context);
    const scanned = asked !== undefined && query.table.key.length > 0;
    const { filter, search } = query;
    const { catalog } = this.context;
    // Whether a walk finds a window's rows soon is a guess where they have to meet something.
    const mayBeLong = filter !== undefined || search !== undefined || catalog.ruled;
    const other = query.byParents !== undefined && mayBeLong ? sorted : undefined;
    const found = await this.read(query, other, (statement, otherStatement) => {
      const taken = (): void => planChoice.refuseWalk(sorted, this.context);
      const otherWay = otherStatement && { statement: otherStatement, taken };
      const asking = this.askingOf(query, patience, otherWay);
      return scanned ? this.runOrScan(statement, asked, asking) : this.run(statement, asking);
    });
    if ('placed' in found) return this.byKeys(asked ?? query, found.placed, patience);
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
   * The rows of a query, by a statement that `run` has the answer of; or what it gives instead. It is told the same
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

  private askingOf({ table }: CheckedQuery, patience: Patience, otherWay?: OtherWay): WindowAsking {
    const { signal } = this.context;
    return { signal, table: table.name, mayBeCut: true, patience, otherWay };
  }

  /** Runs a statement for a window, as long as a request waits. @throws Failure, NotReady */
  private async run(statement: Statement, asking: WindowAsking): Promise<CachedAnswer> {
    return this.timed(await this.engine.patient.run(statement, asking));
  }

  /** The same, unless what was asked is looked through slice by slice instead. */
  private async runOrScan(
    statement: Statement,
    asked: CheckedQuery,
    asking: WindowAsking,
  ): Promise<CachedAnswer | { readonly placed: PlacedKeys }> {
    const { signal, catalog } = this.context;
    const { patient, placedOrders } = this.engine;
    const { patience } = asking;
    const found = await patient.unless(statement, asking, async (cost, giveUp) => {
      await noteGroup(asked, this.engine, catalog);
      const placed = await scan(asked, this.engine, catalog, { signal, patience, giveUp });
      if (placed !== undefined) return { placed };
      // Whoever reads on in such an order is better served by places.
      const further = asked.offset > 0 || asked.anchor !== undefined;
      if (!(further || placedOrders.has(asked)) || cost <= costly) return undefined;
      const known = await beginPlaces(asked, this.engine, catalog, signal);
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
  asked: CheckedQuery,
  { offset, more, complete, scanned }: PlacedKeys,
  rows: readonly Row[],
  isJson = false,
): Pick<RowsWindow, 'next' | 'previous'> {
  const cursor = isJson ? jsonRowCursor(asked) : rowCursor(asked);
  const [first] = rows;
  const last = rows.at(-1);
  const behind = last === undefined ? undefined : cursor?.(last);
  const edge = scanned?.edge;
  // Where nothing more is known to follow, it goes on behind what was looked through so far.
  const further = edge === undefined ? behind : edgeCursor(asked, edge);
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

function writeRows(asked: CheckedQuery, { rows, next, previous }: RowsWindow): WrittenRows {
  const { json, cuts } = rowsEncoder(asked)(rows);
  const told = asked.cells === undefined ? {} : { cuts };
  return { json, ...told, count: rows.length, next, previous };
}
