import type { CheckedQuery } from '@ephoros/core/check';
import { inParameter, problem } from '@ephoros/core/problem';
import { compileRow, compileRows, mayBeCut } from '@ephoros/core/sql';
import { expectTypes, keyValue, rowEncoder, rowsEncoder } from '../encode/index.ts';
import { Failure, type Answer } from '../run/index.ts';
import { reach, type Ground, type KnownTotal, type Way } from '../survey/index.ts';
import {
  type Asked,
  type Parameters,
  Refused,
  type Timings,
  layOut,
  readQuery,
  rowCursor,
} from '../question/index.ts';
import { explainRows, type RowsExplanation } from './explanation.ts';
import { linkPlaces, type Linked } from './link.ts';
import { totalWithin } from './total.ts';

/** A rows answer, encoded, with what its links are made of. */
export interface RowsAnswer {
  readonly json: string;
  readonly linked: Linked;
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
  const ground: Ground = { surveyor, database, relations: catalog.locate, ruled: catalog.ruled };
  const [{ walked, way }, total] = await Promise.all([
    walkTo(checked, ground, asked, timings, signal),
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
  const cut = walked?.answer.cut === true;
  const linked = { query: walked?.placed ?? checked, total, window, cut };
  const json = timings.during('encode', () => encodeRows(checked, linked, explanation));
  return { json, linked };
}

interface Walked {
  /** The query that was asked, with its place as it was looked up. */
  readonly placed: CheckedQuery;
  /** The one that was run. */
  readonly query: CheckedQuery;
  readonly answer: Answer;
}

/** The rows of a window; none are walked to where it lies past the end. */
async function walkTo(
  checked: CheckedQuery,
  ground: Ground,
  asked: Asked,
  timings: Timings,
  signal: AbortSignal,
): Promise<{ walked: Walked | undefined; way: Way }> {
  const placed = await besideItsRow(checked, asked, signal);
  const { walked: query, way } = await reach(placed, ground, signal);
  if (query === undefined) return { walked: undefined, way };
  const asking = { signal, table: checked.table.name, mayBeCut: true };
  const run = async (one: CheckedQuery): Promise<Walked> => {
    const answer = await ground.database.run(compileRows(one, ground.relations), asking);
    timings.add('wait', answer.waited);
    timings.add('database', answer.ran);
    // Of a cut cell a text came, whatever its type.
    const expected = one.columns.map((column) => (mayBeCut(column, one) ? undefined : column));
    expectTypes(answer.types, expected, asked.catalog);
    return { placed, query: one, answer };
  };
  const walked = await run(query);
  // What was come to from behind, and had too many bytes, has lost its beginning.
  const behind = query.beside !== undefined && query.beside.kind !== 'after';
  if (walked.answer.cut && behind && placed.beside === undefined) {
    return { walked: await run(placed), way: { ...way, from: 'start', skip: placed.offset } };
  }
  return { walked, way };
}

/** A query whose cursor held a key alone, with the sort values of that row. @throws Refused */
async function besideItsRow(
  { besideRow, ...query }: CheckedQuery,
  { database, catalog }: Asked,
  signal: AbortSignal,
): Promise<CheckedQuery> {
  if (besideRow === undefined) return query;
  const { kind, key } = besideRow;
  const { table, sort } = query;
  const columns = sort.map(({ column }) => column);
  const values = key.map((value) => value ?? '');
  const statement = compileRow(table, columns, values, catalog.locate);
  const { rows } = await database.run(statement, { signal, table: table.name });
  const [row] = rows;
  if (row === undefined) throw new Refused(inParameter(kind, [problem('cursor-row-gone', {})]));
  return { ...query, beside: { kind, values: row } };
}

function encodeRows(
  query: CheckedQuery,
  linked: Linked & { readonly total: KnownTotal | undefined },
  explanation: RowsExplanation | undefined,
): string {
  const { table, columns, offset, limit, capped } = query;
  const { beside } = linked.query;
  const { total, window: laidOut, cut } = linked;
  const countedAt = total?.countedAt;
  const window = {
    // Beside a cursor nobody has counted how many rows lie before.
    offset: beside === undefined ? offset : null,
    limit,
    ...(capped ? { rowCap: table.rowCap } : {}),
    count: laidOut.rows.length,
    ...(cut === true ? { cut } : {}),
    total: total?.rows ?? null,
    totalKind: total?.kind ?? 'none',
    ...(total === undefined && query.total !== 'none' ? { counting: true } : {}),
    ...(countedAt === undefined ? {} : { countedAt: new Date(countedAt).toISOString() }),
    links: linkPlaces(linked),
  };
  const names = columns.map(({ name }) => name);
  const rows = rowsEncoder(query)(laidOut.rows);
  const cuts = query.cells === undefined ? undefined : rows.cuts;
  const { next, previous } = laidOut;
  const head = `{"table":${JSON.stringify(table.name)},"columns":${JSON.stringify(names)}`;
  const tail = JSON.stringify({ cuts, window, next, previous, explanation }).slice(1);
  return `${head},"rows":${rows.json},${tail}`;
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
  const values = key.map((name, index) => {
    const column = description.columns.find((one) => one.name === name);
    return column && keyValue(parts[index] ?? '', column.type);
  });
  // A value that the type cannot hold is the key of no row.
  if (values.some((value) => value === undefined)) throw unknownRow(table);
  const whole = values.filter((value) => value !== undefined);
  const statement = compileRow(description, columns, whole, catalog.locate);
  const answer = await database
    .run(statement, { signal, table })
    .catch((thrown: unknown): never => {
      // Nor is what the database refuses as a value of the type.
      const refused = thrown instanceof Failure && thrown.kind === 'refused-value';
      throw refused ? unknownRow(table) : thrown;
    });
  timings.add('wait', answer.waited);
  timings.add('database', answer.ran);
  expectTypes(answer.types, columns, catalog);
  const [row] = answer.rows;
  if (row === undefined) throw unknownRow(table);
  return `{"table":${JSON.stringify(table)},"row":${rowEncoder(columns)(row)}}`;
}

function unknownRow(table: string): Refused {
  return new Refused(inParameter('key', [problem('unknown-row', { table })]));
}
