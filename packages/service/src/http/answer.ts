import { checkValue, type CheckedQuery } from '@ephoros/core/check';
import { inParameter, problem } from '@ephoros/core/problem';
import type { ColumnDescription } from '@ephoros/core/schema';
import { compileRow, compileRows } from '@ephoros/core/sql';
import { rowEncoder, rowsEncoder } from '../encode/index.ts';
import type { Answer } from '../run/index.ts';
import { reach, type Ground, type KnownTotal, type Way } from '../survey/index.ts';
import {
  type Asked,
  type Parameters,
  Refused,
  type RowsWindow,
  type Timings,
  layOut,
  readQuery,
  rowCursor,
} from '../question/index.ts';
import { explainRows, type RowsExplanation } from './explanation.ts';
import { totalWithin } from './total.ts';

/** A rows answer, encoded, with what the headers need. */
export interface RowsAnswer {
  readonly json: string;
  readonly query: CheckedQuery;
  /** Absent when nobody counted. */
  readonly total: KnownTotal | undefined;
  readonly window: RowsWindow;
}

/** parameters → parse → check → compile → run → encode: the way of every rows request. */
export async function answerRows(
  parameters: Parameters,
  asked: Asked,
  timings: Timings,
  signal: AbortSignal,
): Promise<RowsAnswer> {
  const { catalog, description, database, surveyor } = asked;
  const { query, checked } = readQuery(parameters, description, catalog, timings);
  const ground: Ground = { surveyor, database, relations: catalog.locate };
  const [{ walked, way }, total] = await Promise.all([
    walkTo(checked, ground, timings, signal),
    // Neither the rows nor whoever waits for them wait longer than the counting time.
    checked.total === 'none'
      ? undefined
      : totalWithin(asked.countingTime, checked, checked.total, asked, signal),
  ]);
  const window =
    walked === undefined
      ? { rows: [], next: null, previous: null }
      : layOut(checked, walked.query, walked.answer, rowCursor(checked));
  const explanation =
    parameters.explain === true && walked !== undefined
      ? await explainRows({ query, checked: walked.query, way }, ground, signal)
      : undefined;
  const json = timings.during('encode', () => encodeRows(checked, window, total, explanation));
  return { json, query: checked, total, window };
}

interface Walked {
  readonly query: CheckedQuery;
  readonly answer: Answer;
}

/** The rows of a window; none are walked to where it lies past the end. */
async function walkTo(
  checked: CheckedQuery,
  ground: Ground,
  timings: Timings,
  signal: AbortSignal,
): Promise<{ walked: Walked | undefined; way: Way }> {
  const { walked: query, way } = await reach(checked, ground, signal);
  if (query === undefined) return { walked: undefined, way };
  const statement = compileRows(query, ground.relations);
  const answer = await ground.database.run(statement, { signal, table: checked.table.name });
  timings.add('wait', answer.waited);
  timings.add('database', answer.ran);
  return { walked: { query, answer }, way };
}

function encodeRows(
  query: CheckedQuery,
  laidOut: RowsWindow,
  total: KnownTotal | undefined,
  explanation: RowsExplanation | undefined,
): string {
  const { table, columns, offset, limit, beside, capped, shape } = query;
  const countedAt = total?.countedAt;
  const window = {
    // Beside a cursor nobody has counted how many rows lie before.
    offset: beside === undefined ? offset : null,
    limit,
    ...(capped ? { rowCap: table.rowCap } : {}),
    count: laidOut.rows.length,
    total: total?.rows ?? null,
    totalKind: total?.kind ?? 'none',
    ...(countedAt === undefined ? {} : { countedAt: new Date(countedAt).toISOString() }),
  };
  const names = columns.map(({ name }) => name);
  const rows = rowsEncoder(columns, shape)(laidOut.rows);
  const { next, previous } = laidOut;
  const head = `{"table":${JSON.stringify(table.name)},"columns":${JSON.stringify(names)}`;
  const tail = JSON.stringify({ window, next, previous, explanation }).slice(1);
  return `${head},"rows":${rows},${tail}`;
}

/** One row by its key, as it stands in the URL (parts percent-encoded, joined by commas). */
export async function answerRow(
  rawKey: string,
  parameters: Parameters,
  { catalog, description, database }: Asked,
  timings: Timings,
  signal: AbortSignal,
): Promise<string> {
  const { key, name: table } = description;
  if (key.length === 0) throw new Refused([problem('no-key', { table })]);
  const parts = rawKey.split(',').map((part) => decodeURIComponent(part));
  if (parts.length !== key.length) {
    const facts = { expected: key.join(', '), found: parts.length };
    throw new Refused(inParameter('key', [problem('malformed-key', facts)]));
  }
  const { columns } = readQuery(parameters, description, catalog, timings).checked;
  const values = key.map((name, index) => keyValue(name, parts[index] ?? '', description.columns));
  // A value that the type cannot hold is the key of no row.
  if (values.some((value) => value === undefined)) throw unknownRow(table);
  const whole = values.filter((value) => value !== undefined);
  const answer = await database.run(compileRow(description, columns, whole, catalog.locate), {
    signal,
    table,
  });
  timings.add('wait', answer.waited);
  timings.add('database', answer.ran);
  const [row] = answer.rows;
  if (row === undefined) throw unknownRow(table);
  return `{"table":${JSON.stringify(table)},"row":${rowEncoder(columns, 'objects')(row)}}`;
}

function keyValue(
  name: string,
  text: string,
  columns: readonly ColumnDescription[],
): string | undefined {
  const column = columns.find((one) => one.name === name);
  return column && !text.includes('\0') ? checkValue(text, column.type) : undefined;
}

function unknownRow(table: string): Refused {
  return new Refused(inParameter('key', [problem('unknown-row', { table })]));
}
