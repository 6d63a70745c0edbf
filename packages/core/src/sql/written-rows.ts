import type { CheckedExpression, CheckedMatch } from '../check/index.ts';
import { arrayText, type ColumnType, type TableDescription } from '../schema/index.ts';
import { comparable, valueOf } from './cast.ts';
import { condition } from './condition.ts';
import { sql, type SQL } from './fragment.ts';
import { insteadOf, Scope, type Relations } from './scope.ts';
import { matchTests, whereAll } from './search.ts';
import { relationName, write, type Relation, type Statement } from './statement.ts';

/** A column that is written or read back, with its type. */
export interface WrittenColumn {
  readonly name: string;
  readonly type: ColumnType;
}

/** A table that is written to. */
export interface WrittenTable {
  readonly relation: Relation;
  /** Whether the role may lock rows: it may where it may change any of their columns. */
  readonly locks: boolean;
  readonly key: readonly WrittenColumn[];
  /** What is read back of each row. */
  readonly returned: readonly WrittenColumn[];
}

type Texts = readonly (string | null)[];

/** A row that is changed or goes: its key, what was read of it, and its new values. */
export interface WrittenRow {
  readonly key: readonly string[];
  readonly was: Texts;
  readonly values: Texts;
}

/** A column whose value must be as it was read; `exact` where PostgreSQL's own text may not differ. */
export interface ExpectedColumn extends WrittenColumn {
  readonly exact?: boolean;
}

/** Which columns the texts of rows belong to. */
export interface WrittenShape {
  readonly was: readonly ExpectedColumn[];
  readonly values: readonly WrittenColumn[];
}

/**
 * Adds rows, all with values for the same columns; gives them back as they are, in their order. Rows
 * that were there before have their own values also where the database gives each row a number.
 */
export function compileAdditions(
  { relation, returned }: WrittenTable,
  columns: readonly WrittenColumn[],
  rows: readonly Texts[],
  asTheyWere = false,
): Statement {
  const into = sql`insert into ${relationName(relation)} as t`;
  const back = sql` returning ${members('t', returned)}`;
  if (columns.length === 0) return write(sql`${into} default values${back}`);
  const names = sql.join(
    columns.map(({ name }) => sql.identifier(name)),
    sql`, `,
  );
  const given = columns.map((_column, index) => rows.map((row) => row[index] ?? null));
  const values = columns.map(({ type }, index) => valueOf(sql.member('v', `v${index}`), type));
  return write(
    sql`${into} (${names})${asTheyWere ? sql` overriding system value` : sql``} select ${sql.join(values, sql`, `)} from ${unnested(given, 'v')} order by v.ord${back}`,
  );
}

/**
 * Changes rows where what was read of them still stands; each is locked first. A line for each row
 * that is there: its number from 1, for each value that was read whether it stands, the values that
 * were before, whether it was written, and the values as they are then.
 */
export function compileRowChanges(
  table: WrittenTable,
  shape: WrittenShape,
  rows: readonly WrittenRow[],
): Statement {
  const { relation, key, returned } = table;
  const sets = shape.values.map(
    ({ name, type }, index) =>
      sql`${sql.identifier(name)} = ${valueOf(sql.member('old', `v${index}`), type)}`,
  );
  const written = sql`update ${relationName(relation)} as t set ${sql.join(sets, sql`, `)} from old where ${keyTest(key, 'old')} ${stands(shape.was)} returning old.ord, ${members('t', returned, 'a')}`;
  const after = sql.join(
    returned.map((_column, index) => sql.member('new', `a${index}`)),
    sql`, `,
  );
  return write(sql`${visibleRange(table, shape, rows, written)}, ${after}${joined}`);
}

/** Removes rows where what was read of them still stands. Lines as of changes, without the last part. */
export function compileRemovals(
  table: WrittenTable,
  was: readonly ExpectedColumn[],
  rows: readonly WrittenRow[],
): Statement {
  const { relation, key } = table;
  // Where a row could not be locked it may be another one by now.
  const tests = was.map((column, index) => isSame(column, sql.member('old', `w${index}`)));
  const still = sql.join(tests.map((test) => sql` and ${test}`));
  const written = sql`delete from ${relationName(relation)} as t using old where ${keyTest(key, 'old')}${still} returning old.ord`;
  return write(sql`${visibleRange(table, { was, values: [] }, rows, written)}${joined}`);
}

/** Locks rows, so that what is read of them next stays so; gives the number of each, from 1. */
export function compileLocks(
  { relation, key }: WrittenTable,
  keys: readonly (readonly string[])[],
): Statement {
  return write(
    sql`select v.ord from ${keysIn(key, keys)} join ${relationName(relation)} as t on ${keyTest(key, 'v')} for update of t`,
  );
}

/** The rows of these keys as they are, locked where that is possible: the number of each, from 1, and some columns. */
export function compileCurrentRows(
  { relation, key, locks }: WrittenTable,
  columns: readonly WrittenColumn[],
  keys: readonly (readonly string[])[],
): Statement {
  return write(
    sql`select v.ord, ${members('t', columns)} from ${keysIn(key, keys)} join ${relationName(relation)} as t on ${keyTest(key, 'v')}${locks ? sql` for update of t` : sql``}`,
  );
}

/** A foreign key as a statement needs it: the table that refers, and which columns lead where. */
export interface FollowedReference {
  readonly relation: Relation;
  /** Whether its rows can be locked. */
  readonly locks: boolean;
  readonly columns: readonly string[];
  readonly references: readonly string[];
}

/** The rows that refer to some rows: the number of the row that each refers to, from 1, and its columns. */
export function compileReferringRows(
  { relation, key }: WrittenTable,
  by: FollowedReference,
  returned: readonly WrittenColumn[],
  keys: readonly (readonly string[])[],
): Statement {
  const shown = returned.length === 0 ? sql`` : sql`, ${members('c', returned)}`;
  return write(
    sql`select v.ord${shown}${referringFrom(relation, key, by, keys)}${by.locks ? sql` for update of c` : sql``}`,
  );
}

/** How many rows refer to each of some rows: the number of the row, from 1, and the count. */
export function compileReferringCounts(
  { relation, key }: WrittenTable,
  by: FollowedReference,
  keys: readonly (readonly string[])[],
): Statement {
  return write(sql`select v.ord, count(*)${referringFrom(relation, key, by, keys)} group by v.ord`);
}

function referringFrom(
  relation: Relation,
  key: readonly WrittenColumn[],
  { relation: from, columns, references }: FollowedReference,
  keys: readonly (readonly string[])[],
): SQL {
  const same = columns.map(
    (name, index) => sql`${sql.member('c', name)} = ${sql.member('t', references[index] ?? '')}`,
  );
  return sql` from ${keysIn(key, keys)} join ${relationName(relation)} as t on ${keyTest(key, 'v')} join ${relationName(from)} as c on ${sql.join(same, sql` and `)}`;
}

/** Whether the role may read some columns of a table. */
export function compileMayRead({ schema, name }: Relation, columns: readonly string[]): Statement {
  return {
    text: `select has_schema_privilege(n.oid, 'USAGE') and (
        select bool_and(has_column_privilege(c.oid, a.attnum, 'SELECT'))
        from pg_attribute a where a.attrelid = c.oid and a.attname = any ($3))
      from pg_class c join pg_namespace n on n.oid = c.relnamespace
      where n.nspname = $1 and c.relname = $2`,
    parameters: [schema, name, columns],
  };
}

/**
 * Of rows by their keys those that there are for the caller: their numbers, from 1, and for each
 * condition whether it is broken; only those that match, where that is requested. Given are rows to ask
 * instead of the table's own: a list in JSON, of objects with the texts of their columns.
 */
export function compileHeldRows(
  table: TableDescription,
  key: readonly WrittenColumn[],
  keys: readonly (readonly string[])[],
  conditions: readonly CheckedExpression[],
  relations: Relations,
  match?: CheckedMatch,
  given?: string,
): Statement {
  const instead = given === undefined ? undefined : givenRows(given, relations(table.name));
  const scope = new Scope(table.name, relations, undefined, insteadOf(instead));
  const own = key.map(({ name }) => sql.member(scope.alias, name));
  const matched = match === undefined ? [] : matchTests(match, scope);
  const tests = conditions.map((one) => sql`, (${condition(one, scope)}) is false`);
  const same = keyTest(key, 'v', own);
  return write(
    sql`select v.ord${sql.join(tests)}${scope.from()} join ${keysIn(key, keys)} on ${same}${whereAll(matched)}`,
  );
}

/** A line if the caller's rule lets a row through. The row is not in the table: it is a list in JSON, as for `compileHeldRows`. */
export function compileRowPolicy(
  table: TableDescription,
  given: string,
  relations: Relations,
): Statement {
  const rows = givenRows(given, relations(table.name));
  const scope = new Scope(table.name, relations, undefined, insteadOf(rows));
  return write(sql`select 1${scope.from()}`);
}

/** Rows of a table's type that are given as JSON, with what a rule lets through of them. */
function givenRows(rows: string, relation: Relation): SQL {
  const typed = sql`jsonb_populate_recordset(null::${relationName(relation)}, ${sql.param(rows)}::jsonb)`;
  return relation.over?.(sql`(select * from ${typed})`) ?? typed;
}

/** The keys of the rows that match, `limit` of them at most; only among some, where these are named. */
export function compileMatchingKeys(
  table: TableDescription,
  key: readonly WrittenColumn[],
  match: CheckedMatch,
  limit: number,
  relations: Relations,
  among?: readonly (readonly string[])[],
): Statement {
  const scope = new Scope(table.name, relations);
  const tests = matchTests(match, scope);
  const own = key.map(({ name }) => sql.member(scope.alias, name));
  const only =
    among === undefined ? sql`` : sql` join ${keysIn(key, among)} on ${keyTest(key, 'v', own)}`;
  const order = sql.join(own, sql`, `);
  return write(
    sql`select ${order}${scope.from()}${only}${whereAll(tests)} order by ${order} limit ${sql.raw(String(limit))}`,
  );
}

/** Whether a text is a value of a type: fails where it is none. */
export function compileValueTest(value: string, { type }: WrittenColumn): Statement {
  return write(sql`select ${valueOf(value, type)}`);
}

/** What a change or a removal begins with: the rows as they are, locked, and what is written of them. */
function visibleRange(
  { relation, locks, key, returned }: WrittenTable,
  { was, values }: WrittenShape,
  rows: readonly WrittenRow[],
  written: SQL,
): SQL {
  const given = [
    ...key.map((_column, index) => rows.map((row) => row.key[index] ?? null)),
    ...was.map((_column, index) => rows.map((row) => row.was[index] ?? null)),
    ...values.map((_column, index) => rows.map((row) => row.values[index] ?? null)),
  ];
  const names = [...numbered('k', key), ...numbered('w', was), ...numbered('v', values)];
  const tests = was.map((column, index) => isSame(column, sql.member('v', `w${index}`)));
  const same = sql.join(tests.map((test, index) => sql`, (${test}) as ${sql.raw(`s${index}`)}`));
  const columnsRead = names.map((name) => sql.member('v', name));
  const old = sql`select v.ord, ${sql.join(columnsRead, sql`, `)}${same}, ${members('t', returned, 'b')} from ${unnested(given, 'v', names)} join ${relationName(relation)} as t on ${keyTest(key, 'v')}${locks ? sql` for update of t` : sql``}`;
  const marks = numbered('s', was).map((name) => sql`${sql.member('old', name)}, `);
  const before = sql.join(
    returned.map((_column, index) => sql.member('old', `b${index}`)),
    sql`, `,
  );
  return sql`with old as (${old}), new as (${written}) select old.ord, ${sql.join(marks)}${before}, new.ord is not null`;
}

const joined = sql` from old left join new on new.ord = old.ord`;

/** That all of what was read still stands. */
function stands(was: readonly ExpectedColumn[]): SQL {
  return sql.join(numbered('s', was).map((name) => sql` and ${sql.member('old', name)}`));
}

function numbered(letter: string, of: readonly unknown[]): readonly string[] {
  return of.map((_one, index) => `${letter}${index}`);
}

/** Columns of a table; with a letter they are called by it and their number. */
function members(alias: string, columns: readonly WrittenColumn[], letter?: string): SQL {
  return sql.join(
    columns.map(({ name }, index) =>
      letter === undefined
        ? sql.member(alias, name)
        : sql`${sql.member(alias, name)} as ${sql.raw(`${letter}${index}`)}`,
    ),
    sql`, `,
  );
}

/**
 * Lists of texts as rows, with their number. A single row is written without a set-returning
 * function: PostgreSQL then finds its generic plan as cheap, and does not plan every time.
 */
function unnested(
  lists: readonly Texts[],
  alias: string,
  names: readonly string[] = numbered('v', lists),
): SQL {
  const texts = lists.map((list) => sql`${sql.param(arrayText(list))}::text[]`);
  if (lists.length > 0 && lists.every((list) => list.length === 1)) {
    const members = texts.map((text, index) => sql`(${text})[1] as ${sql.raw(names[index] ?? '')}`);
    return sql`(select ${sql.join(members, sql`, `)}, 1::int8 as ord) as ${sql.raw(alias)}`;
  }
  return sql`unnest(${sql.join(texts, sql`, `)}) with ordinality as ${sql.raw(alias)}(${sql.raw([...names, 'ord'].join(', '))})`;
}

function keysIn(key: readonly WrittenColumn[], keys: readonly (readonly string[])[]): SQL {
  const lists = key.map((_column, index) => keys.map((parts) => parts[index] ?? null));
  return unnested(lists, 'v', numbered('k', key));
}

function keyTest(
  key: readonly WrittenColumn[],
  other: string,
  own: readonly SQL[] = key.map(({ name }) => sql.member('t', name)),
): SQL {
  const tests = key.map(
    ({ type }, index) =>
      sql`${comparable(own[index] ?? sql``, type)} = ${valueOf(sql.member(other, `k${index}`), type)}`,
  );
  return sql.join(tests, sql` and `);
}

/**
 * Whether a column still has a value, in its own type. What its type takes for equal although it
 * reads otherwise, such as texts in another letter case, is not the same.
 */
function isSame({ name, type, exact = false }: ExpectedColumn, value: SQL): SQL {
  const own = sql.member('t', name);
  const sameText = sql`${own}::text collate "C" is not distinct from ${valueOf(value, type)}::text collate "C"`;
  if (exact) return sameText;
  switch (type.kind) {
    case 'integer':
    case 'numeric':
    case 'float':
    case 'boolean':
    case 'date':
    case 'time':
    case 'timestamp':
    case 'uuid':
    case 'enum':
      return sql`${comparable(own, type)} is not distinct from ${valueOf(value, type)}`;
    case 'text':
    case 'interval':
    case 'binary':
    case 'range':
    case 'json':
    case 'array':
    case 'opaque':
      return sameText;
    default:
      throw new Error(`no comparison for ${JSON.stringify(type satisfies never)}`);
  }
}
