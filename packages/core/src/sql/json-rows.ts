import type { CheckedColumn, CheckedQuery } from '../check/index.ts';
import type { ColumnType, TableDescription } from '../schema/index.ts';
import { sql, type SQL } from './fragment.ts';
import { windowSelect } from './rows.ts';
import type { Relations } from './scope.ts';
import { isGenericPlan } from './generic-plan.ts';
import { write, type Statement } from './statement.ts';

/** Rows that the database itself writes as JSON. */
export interface JsonRows {
  readonly statement: Statement;
  /**
   * The columns that follow each row's JSON text, as PostgreSQL writes them: what the query is
   * sorted by where there is a key.
   */
  readonly places: readonly CheckedColumn[];
}

/** What stands around the rows of a question; the same for all questions for the same columns. */
interface Around {
  readonly selected: string;
  /** Aliases of what is selected inside. */
  readonly names: string;
  /** Fails where a column is of another type by now. */
  readonly test: string;
}

const around = new WeakMap<TableDescription, Map<string, Around | undefined>>();

/** Questions about one table whose surroundings are remembered at most. */
const mostRemembered = 100;

/**
 * The rows of `compileRows`, each written as JSON by the database: it takes less time to write a
 * row than all its values take to be sent, read and written elsewhere. The statement fails with
 * 42704 where a column is not of the type that it was described with, which its JSON would not tell.
 * Undefined where a column is of a kind that only a program writes, or values are cut.
 */
export function compileJsonRows(query: CheckedQuery, relations: Relations): JsonRows | undefined {
  const made = selectJson(query, query.limit + 1, relations);
  if (made === undefined) return undefined;
  const { select, places } = made;
  return { statement: write(select, isGenericPlan(query, relations)), places };
}

/** The same as a piece of a statement, with so many rows at most. */
export function selectJson(
  query: CheckedQuery,
  limit: number,
  relations: Relations,
): { readonly select: SQL; readonly places: readonly CheckedColumn[] } | undefined {
  const { table, sort, cells } = query;
  if (cells !== undefined) return undefined;
  const places = table.key.length === 0 ? [] : sort.map(({ column }) => column);
  const made = aroundRows(query, places, relations);
  if (made === undefined) return undefined;
  const { selected, names, test } = made;
  // Written above the limit, so that rows that are passed over are not.
  const select = sql`select ${sql.raw(selected)} from (${windowSelect(query, limit, relations)}) r(${sql.raw(names)}) where ${sql.raw(test)}`;
  return { select, places };
}

function aroundRows(
  query: CheckedQuery,
  places: readonly CheckedColumn[],
  relations: Relations,
): Around | undefined {
  const { table, columns, shape } = query;
  const key = JSON.stringify([shape, columns.map(nameOf), places.map(nameOf)]);
  const known = around.get(table) ?? new Map<string, Around | undefined>();
  around.set(table, known);
  if (!known.has(key)) {
    if (known.size === mostRemembered) known.clear();
    known.set(key, makeAround(query, places, relations));
  }
  return known.get(key);
}

function makeAround(
  { table, columns, shape }: CheckedQuery,
  places: readonly CheckedColumn[],
  relations: Relations,
): Around | undefined {
  if (!columns.every(({ type }) => isWritable(type))) return undefined;
  const given = places.filter(({ name }) => !columns.some((column) => column.name === name));
  const inner = [...columns, ...given].map(nameOf);
  const alias = (name: string): SQL => sql.raw(`r.c${inner.indexOf(name)}`);
  const types = columns.map(({ path, own }) =>
    relations(path.at(-1)?.table ?? table.name).types?.get(own),
  );
  const tests = columns.map(({ name }, index) => {
    // The planner knows that it is null, and of which type: nothing is computed for each row.
    const nothing = sql`case when false then ${alias(name)} end`;
    return sql`pg_typeof(${nothing})::oid = ${sql.raw(String(types[index]))}`;
  });
  if (types.includes(undefined)) return undefined;
  const selected = sql.join(
    [jsonOfRow(columns, shape === 'objects', alias), ...places.map(({ name }) => alias(name))],
    sql`, `,
  );
  const test =
    tests.length === 0
      ? sql`true`
      : sql`case when ${sql.join(tests, sql` and `)} then true else current_setting('ephoros.table_changed') is null end`;
  return {
    selected: selected.write().text,
    names: inner.map((_name, index) => `c${index}`).join(', '),
    test: test.write().text,
  };
}

function nameOf({ name }: CheckedColumn): string {
  return name;
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
  // Of a domain the type in the result would be another one than that of its values.
  if (type.domain === true) return false;
  if (type.kind === 'time') return !type.zone;
  return type.kind !== 'binary' && type.kind !== 'array';
}

// What JSON wants escaped (RFC 8259, section 7).
const special = /["\\\u0000-\u001f]/;

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
    case 'enum':
      return type.values.some((label) => special.test(label))
        ? undefined
        : { value: column, quoted: true };
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
  if (type.kind === 'float' || (type.kind === 'text' && type.databaseType === undefined)) {
    return sql`coalesce(to_json(${column})::text, 'null')`;
  }
  // By the type's own way to be written, whatever casts there are from it.
  return sql`case when ${column} is null then 'null' else to_json(concat(${column}))::text end`;
}
