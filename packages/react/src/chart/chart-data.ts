import type { GroupLine, Value, OnProgress, WrittenQuery } from '@ephoros/client';
import { call, type Expression } from '@ephoros/core/expression';
import { termOf, type Term } from '@ephoros/core/query';
import type { ResultColumn } from '@ephoros/core/schema';
import { groupingOf, sortTermOf, type Chart } from '@ephoros/core/view';
import type { QueryOptions } from '../records/request-client.ts';

/** Something that is drawn: a bar, a point, the spread of a group. */
export interface Mark {
  /** The value of its group, or where its bin begins. */
  readonly value: Value;
  /** Where its bin ends, of a histogram. */
  readonly end?: Value;
  readonly isLast?: boolean;
  /** What is drawn of it; of a spread the least, the quarters and the greatest value. */
  readonly numbers: readonly (number | null)[];
  /** The same as the database wrote them. */
  readonly values: readonly Value[];
  /** The condition of its rows, as text; undefined where nobody says it. */
  readonly filter: string | undefined;
}

/** What a chart draws. */
export interface ChartData {
  readonly marks: readonly Mark[];
  /** What the marks are called, and what their numbers are. */
  readonly by: ResultColumn;
  readonly of: readonly ResultColumn[];
  /** How many marks there would be; undefined where nobody counts. */
  readonly all: number | undefined;
  /** Whether they stand in the order of their values, not of their size. */
  readonly ordered: boolean;
}

/** Marks at most: more could not be distinguished. */
const mostBars = 40;
const mostPoints = 1_000;
const bins = 30;

const rowCount = termOf(call('count'));

/** Asks for what a chart draws: groups, or how values are spread; never rows. */
export async function fetchChart(
  chart: Chart,
  request: QueryOptions,
  match: WrittenQuery,
  signal: AbortSignal,
  onProgress?: OnProgress,
): Promise<ChartData> {
  return chart.kind === 'histogram'
    ? fetchHistogram(chart, request, match, signal, onProgress)
    : fetchGroups(chart, request, match, signal, onProgress);
}

async function fetchHistogram(
  { by }: Chart,
  request: QueryOptions,
  match: WrittenQuery,
  signal: AbortSignal,
  onProgress?: OnProgress,
): Promise<ChartData> {
  const { expression } = by;
  if (request.values === undefined || expression.kind !== 'property') {
    throw new Error('a histogram is of one column');
  }
  const { column, histogram = [] } = await request.values(
    expression.name,
    { ...match, limit: 1 },
    { bins },
    signal,
    onProgress,
  );
  const marks = histogram.map(({ from, to, count }, index) => ({
    value: from,
    end: to,
    isLast: index === histogram.length - 1,
    numbers: [count],
    values: [count],
    filter: undefined,
  }));
  return { marks, by: column, of: [countColumn], all: marks.length, ordered: true };
}

const countColumn: ResultColumn = {
  name: rowCount.name,
  label: '',
  type: { kind: 'integer', bits: 64 },
  encoding: 'number',
};

async function fetchGroups(
  chart: Chart,
  request: QueryOptions,
  match: WrittenQuery,
  signal: AbortSignal,
  onProgress?: OnProgress,
): Promise<ChartData> {
  const { group = [], aggregate = [rowCount] } = groupingOf(chart);
  const ordered = chart.kind === 'line' || isOrdered(chart.by.expression);
  const [size = rowCount] = chart.kind === 'spread' ? [rowCount] : aggregate;
  const answer = await request.groups(
    {
      ...match,
      group,
      aggregate: aggregate.some(({ name }) => name === size.name)
        ? aggregate
        : [...aggregate, size],
      // The largest ones, unless they stand in an order of their own.
      sort: [ordered ? sortTermOf(chart.by, false) : sortTermOf(size, true)],
      limit: ordered ? mostPoints : mostBars,
    },
    signal,
    onProgress,
  );
  const [level] = answer.levels;
  if (level === undefined) throw new Error('a chart is by something');
  const shown = aggregate.flatMap((term) => find(answer.aggregates, term));
  return {
    marks: answer.groups.map((line) => markOf(line, shown)),
    by: level,
    of: shown,
    all: answer.window.total ?? undefined,
    ordered,
  };
}

function find(columns: readonly ResultColumn[], term: Term): readonly ResultColumn[] {
  const found = columns.find(({ name }) => name === term.name);
  return found === undefined ? [] : [found];
}

function markOf(line: GroupLine, shown: readonly ResultColumn[]): Mark {
  const values = shown.map(({ name }) => line.aggregates[name] ?? null);
  return {
    value: line.value,
    numbers: values.map(numberOf),
    values,
    filter: line.filter ?? undefined,
  };
}

/** Numbers are drawn as near as a screen can show. */
function numberOf(value: Value): number | null {
  if (value === null || typeof value === 'object') return null;
  const number = Number(value);
  return Number.isFinite(number) ? number : null;
}

/** Whether groups stand in an order that readers expect: of time, and of steps. */
function isOrdered(expression: Expression): boolean {
  return expression.kind === 'call' && expression.name !== 'initial';
}
