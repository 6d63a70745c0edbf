import { checkQuery, checkValue, type CheckedQuery } from '@ephoros/core/check';
import { inParameter, nearest, problem, type Problem } from '@ephoros/core/problem';
import {
  parseParameters,
  type Query,
  type QueryParameter,
  type TotalKind,
} from '@ephoros/core/query';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import {
  compileCount,
  compileEstimate,
  compileRow,
  compileRows,
  type Relations,
} from '@ephoros/core/sql';
import type { Catalog, Published } from '../catalog/index.ts';
import { rowEncoder, rowsEncoder } from '../encode/index.ts';
import type { Database } from '../run/index.ts';
import { explain, type Explanation } from './explanation.ts';
import { Refused } from './problems.ts';
import type { Timings } from './timings.ts';
import { layOut, type RowsWindow } from './window.ts';

/** What is asked: a table of a catalog, in a database. */
export interface Asked {
  readonly catalog: Catalog;
  readonly description: TableDescription;
  readonly database: Database;
}

/** A rows answer, encoded, with what the headers need. */
export interface RowsAnswer {
  readonly json: string;
  readonly query: CheckedQuery;
  /** Null when nobody counted. */
  readonly total: number | null;
  readonly window: RowsWindow;
}

/** Parameters that can be read, and what is wrong with the others. */
export interface Parameters {
  readonly values: Partial<Record<QueryParameter, string>>;
  readonly problems: readonly Problem[];
  /** Whether the answer tells how it came about. */
  readonly explain?: boolean;
  /** How long a parameter may be, where that is not as in a URL. */
  readonly characters?: number;
}

/** parameters → parse → check. @throws Refused with every mistake of all stages */
function readQuery(
  { values, problems, characters }: Parameters,
  description: TableDescription,
  catalog: Catalog,
  timings: Timings,
): { query: Query; checked: CheckedQuery } {
  const asked = timings.during('parse', () =>
    parseParameters(
      values,
      characters === undefined ? catalog.limits : { ...catalog.limits, characters },
    ),
  );
  const read = timings.during('check', () =>
    checkQuery(asked.query, description, { tables: catalog.describe }),
  );
  const found = 'problems' in read ? read.problems : [];
  const all = [...problems, ...asked.problems, ...found];
  if ('problems' in read || all.length > 0) throw new Refused(all);
  return { query: asked.query, checked: read.checked };
}

/** parameters → parse → check → compile → run → encode: the way of every rows request. */
export async function answerRows(
  parameters: Parameters,
  { catalog, description, database }: Asked,
  timings: Timings,
  signal: AbortSignal,
): Promise<RowsAnswer> {
  const { query: asked, checked: query } = readQuery(parameters, description, catalog, timings);
  const statement = compileRows(query, catalog.locate);
  const [answer, total] = await Promise.all([
    database.run(statement, signal),
    countTotal(query, catalog.locate, database, signal),
  ]);
  timings.add('wait', answer.waited);
  timings.add('database', answer.ran + (total?.ran ?? 0));
  const window = layOut(query, answer);
  const explanation = parameters.explain
    ? await explain(asked, query, statement, database, signal)
    : undefined;
  const json = timings.during('encode', () =>
    encodeRows(query, window, total?.total ?? null, explanation),
  );
  return { json, query, total: total?.total ?? null, window };
}

function encodeRows(
  query: CheckedQuery,
  laidOut: RowsWindow,
  total: number | null,
  explanation: Explanation | undefined,
): string {
  const { table, columns, offset, limit, beside, capped, shape, total: totalKind } = query;
  const window = {
    // Beside a cursor nobody has counted how many rows lie before.
    offset: beside === undefined ? offset : null,
    limit,
    ...(capped ? { rowCap: table.rowCap } : {}),
    count: laidOut.rows.length,
    total,
    totalKind: total === null ? 'none' : totalKind,
  };
  const names = columns.map(({ name }) => name);
  const rows = rowsEncoder(columns, shape)(laidOut.rows);
  const { next, previous } = laidOut;
  const head = `{"table":${JSON.stringify(table.name)},"columns":${JSON.stringify(names)}`;
  const tail = JSON.stringify({ window, next, previous, explanation }).slice(1);
  return `${head},"rows":${rows},${tail}`;
}

async function countTotal(
  query: CheckedQuery,
  locate: Relations,
  database: Database,
  signal: AbortSignal,
): Promise<{ total: number | null; ran: number } | undefined> {
  const kind: TotalKind = query.total;
  switch (kind) {
    case 'none':
      return undefined;
    case 'exact': {
      const { rows, ran } = await database.run(compileCount(query, locate), signal);
      return { total: Number(rows[0]?.[0]), ran };
    }
    case 'estimate': {
      const { estimatedRows } = query.table;
      if (query.filter === undefined && query.search === undefined && estimatedRows !== null) {
        return { total: estimatedRows, ran: 0 };
      }
      const { rows, ran } = await database.run(compileEstimate(query, locate), signal);
      const plan = JSON.parse(rows[0]?.[0] ?? '[]') as [{ Plan: { 'Plan Rows': number } }?];
      return { total: plan[0]?.Plan['Plan Rows'] ?? null, ran };
    }
    default:
      throw new Error(`unknown total ${JSON.stringify(kind satisfies never)}`);
  }
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
  const answer = await database.run(
    compileRow(description, columns, whole, catalog.locate),
    signal,
  );
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

/** A published table by its name. @throws Refused */
export function findTable({ tables }: Catalog, name: string): Published {
  const found = tables.get(name);
  if (found !== undefined) return found;
  const facts = { name, near: nearest(name, tables.keys()) };
  throw new Refused(inParameter('table', [problem('unknown-table', facts)]));
}
