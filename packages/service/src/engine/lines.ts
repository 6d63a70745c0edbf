import type { CheckedGrouping } from '@ephoros/core/check';
import { compileGroups, type Statement } from '@ephoros/core/sql';
import { expectTypes } from '../encode/index.ts';
import type { Answer } from '../run/index.ts';
import { layOut, lineCursor, linePlaces, type RowsWindow } from '../query/index.ts';
import type { Engine } from './engine.ts';
import type { RequestContext } from './request-context.ts';

type Row = Answer['rows'][number];

/** The lines of a level in a window. */
export interface Lines {
  readonly window: RowsWindow;
  /** How many lines the level has. */
  readonly total: number;
  /** When they were made, in ms since 1970, where that was not for this very question. */
  readonly at: number | undefined;
  readonly statement: Statement;
}

/**
 * Holds what came against what lines are stated to be, as far as they hold values of columns.
 * @throws Failure `changed`
 */
export function expectLineTypes(
  { types }: Pick<Answer, 'types'>,
  { levels, path, aggregates }: CheckedGrouping,
  catalog: RequestContext['catalog'],
): void {
  const level = levels[path.length];
  const value = level?.scalar.kind === 'column' ? level : undefined;
  const own = aggregates.map((one) =>
    (one.kind === 'min' || one.kind === 'max') && one.argument?.kind === 'column' ? one : undefined,
  );
  // Behind the value, the count and the lines below.
  expectTypes(types, [value, undefined, undefined, ...own], catalog);
}

/** Lines of a level that are read at once: making one takes as long as making all of them. */
const mostAtOnce = 5_000;

/** What of an engine lines are read by. */
type Requested = Pick<Engine, 'results' | 'planChoice'>;

/** The first lines of a level, with how many there are. */
export interface Level {
  readonly lines: readonly Row[];
  readonly total: number;
  readonly at: number | undefined;
  readonly statement: Statement;
}

/** The lines of a level from its beginning on, wherever the grouping's window lies. */
export async function readLevel(
  grouping: CheckedGrouping,
  engine: Requested,
  context: RequestContext,
): Promise<Level> {
  const whole: CheckedGrouping = { ...grouping, offset: 0, anchor: undefined, limit: mostAtOnce };
  const { statement, answer } = await run(whole, engine, context);
  return {
    lines: answer.rows.slice(0, mostAtOnce),
    total: Number(answer.rows[0]?.at(-1) ?? 0),
    at: answer.at,
    statement,
  };
}

async function run(
  query: CheckedGrouping,
  { results, planChoice }: Requested,
  context: RequestContext,
): Promise<{ statement: Statement; answer: Answer & { at?: number } }> {
  const { catalog, signal, tally, budget } = context;
  const grouping = await planChoice.groups(query, context);
  const statement = compileGroups(grouping, catalog.locate);
  const { name, estimatedRows } = grouping.table;
  const options = { signal, table: name, rows: estimatedRows ?? undefined, budget };
  const answer = await results.run(statement, options);
  tally.ran(answer);
  expectLineTypes(answer, grouping, catalog);
  return { statement, answer };
}

/**
 * The lines of a level in a grouping's window. A level is read as a whole, so that its further
 * windows need no further statement while it is remembered; of one with very many lines the
 * beginning is, and what lies behind it is read by windows.
 */
export async function readLines(
  grouping: CheckedGrouping,
  engine: Requested,
  context: RequestContext,
): Promise<Lines> {
  const cursor = lineCursor(grouping);
  if (grouping.uncounted === true) {
    const { answer, statement } = await run(grouping, engine, context);
    const window = layOut(grouping, grouping, answer, cursor);
    return { window, total: 0, at: answer.at, statement };
  }
  const { lines, total, at, statement } = await readLevel(grouping, engine, context);
  const window = windowIn(grouping, lines, total);
  if (window !== undefined) {
    const { first, end } = window;
    const rows = lines.slice(first, end);
    const [head] = rows;
    const last = rows.at(-1);
    return {
      window: {
        rows,
        next: last !== undefined && end < total ? cursor(last) : null,
        previous: head !== undefined && first > 0 ? cursor(head) : null,
      },
      total,
      at,
      statement,
    };
  }
  const own = await run(grouping, engine, context);
  return {
    window: layOut(grouping, grouping, own.answer, cursor),
    total,
    at: own.answer.at,
    statement: own.statement,
  };
}

/** Where among the first lines of a level a window lies; undefined where that cannot be stated. */
function windowIn(
  grouping: CheckedGrouping,
  lines: readonly Row[],
  total: number,
): { first: number; end: number } | undefined {
  const { anchor, offset, limit } = grouping;
  const within = (first: number, end: number): { first: number; end: number } | undefined =>
    end <= lines.length || lines.length === total
      ? { first: Math.min(first, total), end: Math.min(end, total) }
      : undefined;
  if (anchor === undefined) return within(offset, offset + limit);
  if (anchor.kind === 'end') return undefined;
  const places = linePlaces(grouping);
  // A line that is no longer there as it was has no place among these.
  const at = lines.findIndex((line) =>
    places.every((place, index) => line[place] === anchor.values[index]),
  );
  if (at === -1) return undefined;
  return anchor.kind === 'after'
    ? within(at + 1, at + 1 + limit)
    : within(Math.max(0, at - limit), at);
}
