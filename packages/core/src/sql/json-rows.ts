import type { CheckedColumn, CheckedQuery } from '../check/index.ts';
import type { ColumnType } from '../schema/index.ts';
import { sql, type SQL } from './fragment.ts';
import { keysetSelects, oneAfterTheOther } from './keyset.ts';
import type { Relations } from './scope.ts';
import { write, type Statement } from './statement.ts';

/** Rows that the database itself writes as JSON, and what else it gives with each of them. */
export interface JsonRows {
  readonly statement: Statement;
  /**
   * The columns that follow each row's JSON text, as PostgreSQL writes them: what the query is
   * sorted by where there is a key.
   */
  readonly places: readonly CheckedColumn[];
  /** Behind those, always null: of these columns the types are told, which JSON text does not. */
  readonly types: readonly CheckedColumn[];
}

/**
 * The rows of `compileRows`, each written as JSON by the database: it takes less time to write a
 * row than all its values take to be sent, read and written elsewhere. Undefined where a column is
 * of a kind that only a program writes, or values are cut.
 */
export function compileJsonRows(query: CheckedQuery, relations: Relations): JsonRows | undefined {
  const { table, columns, sort, limit, offset, shape, cells } = query;
  if (cells !== undefined || !columns.every(({ type }) => isWritable(type))) return undefined;
  const places = table.key.length === 0 ? [] : sort.map(({ column }) => column);
  const given = places.filter(({ name }) => !columns.some((column) => column.name === name));
  const inner = [...columns, ...given].map(({ name }) => name);
  const alias = (name: string): SQL => sql.raw(`r.c${inner.indexOf(name)}`);
  const whole = oneAfterTheOther(keysetSelects(query, relations), offset + limit + 1);
  const names = sql.raw(inner.map((_name, index) => `c${index}`).join(', '));
  const selected = sql.join(
    [
      jsonOfRow(columns, shape === 'objects', alias),
      ...places.map(({ name }) => alias(name)),
      // Nothing is computed for these: the planner knows that they are null.
      ...columns.map(({ name }) => sql`case when false then ${alias(name)} end`),
    ],
    sql`, `,
  );
  // Written above the limit, so that rows that are passed over are not.
  const statement = write(
    sql`select ${selected} from (${whole} limit ${limit + 1} offset ${offset}) r(${names})`,
  );
  return { statement, places, types: columns };
}

/** Arguments of one call of `concat` at most; PostgreSQL takes a hundred. */
const mostArguments = 90;

function jsonOfRow(
  columns: readonly CheckedColumn[],
  asObject: boolean,
  alias: (name: string) => SQL,
): SQL {
  const pieces: SQL[] = [];
  let text = asObject ? '{' : '[';
  for (const [index, { name, type, nullable }] of columns.entries()) {
    const comma = index === 0 ? '' : ',';
    text += asObject ? `${comma}${JSON.stringify(name)}:` : comma;
    const column = alias(name);
    const plain = plainJson(type, column);
    if (plain === undefined) {
      pieces.push(sql.literal(text), escapedJson(type, column));
      text = '';
    } else if (nullable) {
      const [before, after] = plain.quoted ? [sql.literal('"'), sql.literal('"')] : [];
      const value =
        before === undefined || after === undefined
          ? sql`${plain.value}::text`
          : sql`${before} || ${plain.value} || ${after}`;
      pieces.push(sql.literal(text), sql`coalesce(${value}, 'null')`);
      text = '';
    } else {
      const quote = plain.quoted ? '"' : '';
      pieces.push(sql.literal(text + quote), plain.value);
      text = quote;
    }
  }
  pieces.push(sql.literal(text + (asObject ? '}' : ']')));
  return concat(pieces);
}

function concat(pieces: readonly SQL[]): SQL {
  if (pieces.length <= mostArguments) return sql`concat(${sql.join(pieces, sql`, `)})`;
  const chunks: SQL[] = [];
  for (let at = 0; at < pieces.length; at += mostArguments) {
    chunks.push(concat(pieces.slice(at, at + mostArguments)));
  }
  return concat(chunks);
}

/** Whether values of a type are written by the database just as `encode` writes them. */
function isWritable(type: ColumnType): boolean {
  if (type.kind === 'time') return !type.zone;
  return type.kind !== 'binary' && type.kind !== 'array';
}

/** A value whose text needs no escapes; undefined for those that may. */
function plainJson(
  type: ColumnType,
  column: SQL,
): { readonly value: SQL; readonly quoted: boolean } | undefined {
  switch (type.kind) {
    case 'integer':
      return { value: column, quoted: type.bits === 64 };
    case 'numeric':
    case 'date':
    case 'time':
    case 'interval':
    case 'uuid':
      return { value: column, quoted: true };
    case 'boolean':
      return {
        value: sql`case ${column} when true then 'true' when false then 'false' end`,
        quoted: false,
      };
    case 'json':
      return { value: column, quoted: false };
    case 'timestamp':
      return { value: timestamp(column, type.zone), quoted: true };
    default:
      return undefined;
  }
}

/** RFC 3339 in UTC; what that cannot say (infinity, other years) keeps PostgreSQL's spelling. */
function timestamp(column: SQL, zone: boolean): SQL {
  const written = sql`replace(${column}::text, ' ', 'T')`;
  const [type, whole] = zone
    ? [sql`timestamptz`, sql`replace(${written}, '+00', 'Z')`]
    : [sql`timestamp`, written];
  return sql`case when ${column} >= ${type} '0001-01-01' and ${column} < ${type} '10000-01-01' then ${whole} else ${column}::text end`;
}

function escapedJson(type: ColumnType, column: SQL): SQL {
  const usual = type.databaseType === undefined && type.domain !== true;
  if (type.kind === 'float' || (type.kind === 'text' && usual)) {
    return sql`coalesce(to_json(${column})::text, 'null')`;
  }
  // By the type's own way to be written, whatever casts there are from it.
  return sql`case when ${column} is null then 'null' else to_json(concat(${column}))::text end`;
}
