import {
  checkAggregates,
  checkGrouping,
  levelFilter,
  lineFilter,
  type CheckedAggregate,
  type CheckedGrouping,
  type CheckedLevel,
} from '@ephoros/core/check';
import { parsePath, printExpression, printPath, type PathValue } from '@ephoros/core/expression';
import { termOf } from '@ephoros/core/query';
import type { ResultColumn } from '@ephoros/core/schema';
import { compileGroups } from '@ephoros/core/sql';
import { valueEncoder } from '../encode/index.ts';
import type { Answer } from '../run/index.ts';
import {
  type Asked,
  type Parameters,
  type Timings,
  checkedAgainst,
  readWith,
} from '../question/index.ts';
import { explain } from './explanation.ts';
import { expectLineTypes, readLines, type Lines } from './lines.ts';
import type { Linked } from './link.ts';

type Row = Answer['rows'][number];

/** An encoded answer, and when it was made (ms since 1970), where not for this very question. */
export interface AgedAnswer {
  readonly json: string;
  readonly at: number | undefined;
  /** Of an answer that has a window. */
  readonly linked?: Linked;
}

/** parameters → parse → check → compile → run → encode, for the lines of one level. */
export async function answerGroups(
  parameters: Parameters,
  asked: Asked,
  timings: Timings,
  signal: AbortSignal,
): Promise<AgedAnswer> {
  const { catalog, description, database } = asked;
  const { query, checked } = readWith(parameters, catalog, timings, (one) =>
    checkGrouping(one, description, checkedAgainst(catalog)),
  );
  const lines = await readLines(checked, asked, timings, signal);
  const explanation =
    parameters.explain === true
      ? await explain(query, lines.statement, database, { signal, table: description.name })
      : undefined;
  const json = timings.during('encode', () => {
    const { levels, path, aggregates } = checked;
    const above = levelFilter(query, checked);
    const filterOf = above === 'unspoken' ? nothing : lineFilter(query, checked);
    const groups = encodeLines(filterOf, checked, lines.window.rows);
    const head = JSON.stringify({
      table: description.name,
      depth: path.length,
      levels: levels.map(resultColumn),
      aggregates: aggregates.map(resultColumn),
    });
    // Once for all lines, which say only what is theirs.
    const filter = typeof above === 'object' ? printExpression(above) : null;
    const tail = JSON.stringify({ filter, ...windowOf(checked, lines), explanation });
    return `${head.slice(0, -1)},"path":${printPath(query.path ?? [])},"groups":[${groups.join(',')}],${tail.slice(1)}`;
  });
  return { json, at: lines.at, linked: linkedTo(checked, lines) };
}

/** The aggregates of the whole result; the number of rows where none is named. */
export async function answerAggregates(
  parameters: Parameters,
  asked: Asked,
  timings: Timings,
  signal: AbortSignal,
): Promise<AgedAnswer> {
  const { catalog, description, database, remembered } = asked;
  const { query, checked } = readWith(parameters, catalog, timings, (one) => {
    const counted = [termOf({ kind: 'call', name: 'count', args: [], span: { start: 0, end: 0 } })];
    const asked = { ...one, aggregate: one.aggregate ?? counted };
    return checkAggregates(asked, description, checkedAgainst(catalog));
  });
  const statement = compileGroups(checked, catalog.locate);
  const asking = { signal, table: description.name };
  const answer = await remembered.run(statement, asking);
  timings.add('wait', answer.waited);
  timings.add('database', answer.ran);
  expectLineTypes(answer, checked, catalog);
  const explanation =
    parameters.explain === true ? await explain(query, statement, database, asking) : undefined;
  const [row = []] = answer.rows;
  const head = JSON.stringify({
    table: description.name,
    aggregates: checked.aggregates.map(resultColumn),
  });
  const tail = JSON.stringify({ ...asOf(answer.at), explanation }).slice(1);
  const values = encodeAggregates(checked.aggregates)(row);
  const json = `${head.slice(0, -1)},"values":${values}${tail === '}' ? '' : ','}${tail}`;
  return { json, at: answer.at };
}

/** What an answer tells of its window. */
export function windowOf(
  { table, offset, limit, beside, capped }: CheckedGrouping,
  { window, total, at }: Lines,
): object {
  return {
    window: {
      offset: beside === undefined ? offset : null,
      limit,
      ...(capped ? { rowCap: table.rowCap } : {}),
      count: window.rows.length,
      total,
      totalKind: 'exact',
      ...asOf(at),
    },
    next: window.next,
    previous: window.previous,
  };
}

/** What the links to other windows of the lines are made of. */
export function linkedTo(query: CheckedGrouping, { window, total }: Lines): Linked {
  return { query, window, total: { kind: 'exact', rows: total } };
}

function asOf(at: number | undefined): { asOf?: string } {
  return at === undefined ? {} : { asOf: new Date(at).toISOString() };
}

/** A column of an answer, without what only the service needs. */
export function resultColumn({ name, label, type, encoding, format }: ResultColumn): ResultColumn {
  return { name, label, type, encoding, ...(format === undefined ? {} : { format }) };
}

/** Encodes the value of a line. */
export function lineValue({ type, encoding }: CheckedLevel): (row: Row) => string {
  const encode = valueEncoder(type, encoding);
  return ([text = null]) => (text === null ? 'null' : encode(text));
}

/** The value of a line as the filter language and a path have it. */
export function pathValue(json: string): PathValue | undefined {
  const read = parsePath(`[${json}]`);
  return 'path' in read ? read.path[0] : undefined;
}

function encodeAggregates(aggregates: readonly CheckedAggregate[]): (row: Row) => string {
  const encoders = aggregates.map(({ name, type, encoding }, index) => {
    const encode = valueEncoder(type, encoding);
    const lead = `${JSON.stringify(name)}:`;
    // Behind the value, the count and the lines below.
    return (row: Row): string => {
      const text = row[index + 3] ?? null;
      return lead + (text === null ? 'null' : encode(text));
    };
  });
  return (row) => `{${encoders.map((encode) => encode(row)).join(',')}}`;
}

/** Of lines whose level cannot be said none can be. */
function nothing(): undefined {
  return undefined;
}

function encodeLines(
  filterOf: ReturnType<typeof lineFilter>,
  checked: CheckedGrouping,
  rows: readonly Row[],
): readonly string[] {
  const level = checked.levels[checked.path.length];
  if (level === undefined) return [];
  const value = lineValue(level);
  const aggregates = encodeAggregates(checked.aggregates);
  return rows.map((row) => {
    const [, count, below] = row;
    const json = value(row);
    const filter = filterOf(pathValue(json));
    const told = JSON.stringify(filter === undefined ? null : printExpression(filter));
    return `{"value":${json},"count":${count ?? '0'},"below":${below ?? 'null'},"aggregates":${aggregates(row)},"filter":${told}}`;
  });
}
