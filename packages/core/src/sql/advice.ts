import type {
  CheckedColumn,
  CheckedExpression,
  CheckedQuery,
  CheckedScalar,
} from '../check/index.ts';
import { isComparable, type ColumnType } from '../schema/index.ts';
import { keysetOrder } from './keyset-order.ts';
import type { Relations } from './scope.ts';
import { sql, type SQL } from './fragment.ts';
import { qualifiedName, relationName, write, type Relation, type Statement } from './statement.ts';

/** A column of an index, and how it is ordered there; nulls as PostgreSQL has them by default. */
export interface IndexColumn {
  readonly name: string;
  readonly descending: boolean;
  readonly nullsFirst: boolean;
}

/** An index that a question would want. */
export interface WantedIndex {
  /** `ordered`: a B-tree; `trigrams`: parts of texts (pg_trgm); `words`: texts by a language. */
  readonly kind: 'ordered' | 'trigrams' | 'words';
  /** The published table that it is of. */
  readonly table: string;
  readonly columns: readonly IndexColumn[];
  /** Of an ordered one: how many of its columns, from the first, are compared with one value. */
  readonly equal: number;
  /** How the words are read; of `words` alone. */
  readonly fullText?: string;
}

/** An index that there is, as far as it can be compared. */
export interface ExistingIndex {
  readonly name: string;
  readonly method: string;
  readonly columns: readonly IndexColumn[];
  /** Whether it is of plain columns of all rows, each compared as its type is by default. */
  readonly plain: boolean;
  /** Whether each of its columns is stored by its trigrams. */
  readonly trigrams: boolean;
}

/**
 * The indexes that a question would want, the one for its own rows first: what is compared with one
 * value, then the order, then the key; parts of texts by their trigrams. What lies in related rows
 * orders by no index of the table.
 */
export function wantedIndexes(query: CheckedQuery): readonly WantedIndex[] {
  const terms = termsOf(query.filter);
  const equal = [...new Set(terms.flatMap(equalColumn))];
  const { terms: sort, phased } = keysetOrder(query);
  const own = sort.every(({ column }) => column.path.length === 0);
  const ranges = [...new Set(terms.flatMap(rangeColumn))].filter((name) => !equal.includes(name));
  const order = own
    ? orderOf(
        sort.map(({ column, descending, nulls }, index) => ({
          name: column.own,
          descending,
          // Of two phases neither has to place nulls.
          nullsFirst: column.nullable && !(index === 0 && phased) ? nulls === 'first' : descending,
        })),
        equal,
      )
    : [...ranges.slice(0, 1), ...query.table.key]
        .filter((name, index, all) => !equal.includes(name) && all.indexOf(name) === index)
        .map((name) => ({ name, descending: false, nullsFirst: false }));
  const worth = equal.length + ranges.length > 0 || own;
  const columns = [...equal.map(plainly), ...order];
  const ordered: WantedIndex[] =
    worth && columns.length > 0
      ? [{ kind: 'ordered', table: query.table.name, columns, equal: equal.length }]
      : [];
  return [...ordered, ...likeIndexes(query, terms), ...searchIndexes(query)];
}

/** What has to be there before an index of trigrams can be made. */
export const trigramsExtension = 'create extension if not exists pg_trgm';

/** Whether an index that there is does what a wanted one would. */
export function serves(existing: ExistingIndex, wanted: WantedIndex): boolean {
  const names = existing.columns.map(({ name }) => name);
  if (wanted.kind === 'trigrams') {
    return existing.trigrams && wanted.columns.every(({ name }) => names.includes(name));
  }
  if (wanted.kind === 'words' || existing.method !== 'btree' || !existing.plain) return false;
  const { columns, equal } = wanted;
  const leading = new Set(names.slice(0, equal));
  if (!columns.slice(0, equal).every(({ name }) => leading.has(name))) return false;
  const order = columns.slice(equal);
  const there = existing.columns.slice(equal, columns.length);
  const alike = (turned: boolean): boolean =>
    order.every(({ name, descending, nullsFirst }, index) => {
      const one = there[index];
      return (
        one?.name === name &&
        (one.descending !== descending) === turned &&
        (one.nullsFirst !== nullsFirst) === turned
      );
    });
  return leading.size === equal && there.length === order.length && (alike(false) || alike(true));
}

/**
 * The statement that makes an index. `concurrently` it is made while others write; on partitioned
 * tables PostgreSQL does not do that.
 */
export function compileIndex(
  { kind, table, columns, fullText }: WantedIndex,
  relations: Relations,
  concurrently = true,
): string {
  const how = concurrently ? sql` concurrently` : sql``;
  const on = sql`create index${how} on ${relationName(relations(table))}`;
  return write(sql`${on} ${membersOf(kind, columns, fullText)}`).text;
}

function membersOf(
  kind: WantedIndex['kind'],
  columns: readonly IndexColumn[],
  fullText: string | undefined,
): SQL {
  const named = columns.map((column) => ({ column, name: sql.identifier(column.name) }));
  switch (kind) {
    case 'ordered': {
      const members = named.map(({ column: { descending, nullsFirst }, name }) => {
        const direction = descending ? sql` desc` : sql``;
        // As PostgreSQL has it by default it is not stated.
        if (nullsFirst === descending) return sql`${name}${direction}`;
        return sql`${name}${direction} nulls ${sql.raw(nullsFirst ? 'first' : 'last')}`;
      });
      return sql`(${sql.join(members, sql`, `)})`;
    }
    case 'trigrams': {
      const members = named.map(({ name }) => sql`${name} gin_trgm_ops`);
      return sql`using gin (${sql.join(members, sql`, `)})`;
    }
    case 'words': {
      const all = sql.join(
        named.map(({ name }) => sql`coalesce(${name}, '')`),
        sql` || ' ' || `,
      );
      return sql`using gin (to_tsvector(${sql.literal(fullText ?? 'simple')}, ${all}))`;
    }
    default:
      throw new Error(`no index of ${JSON.stringify(kind satisfies never)}`);
  }
}

/**
 * What advice needs to know of a table: one row, one JSON document. Its kind, its rows, how wide its
 * columns are, its indexes, whether pg_trgm is there and where hypopg is.
 */
export function compileIndexFacts(relation: Relation): Statement {
  const table = qualifiedName(relation);
  return write(sql`select json_build_object(
    'kind', c.relkind, 'rows', greatest(c.reltuples, 0)::bigint,
    'trigrams', exists (select from pg_extension where extname = 'pg_trgm'),
    'hypothetical', (select n.nspname from pg_extension e join pg_namespace n on n.oid = e.extnamespace
      where e.extname = 'hypopg'),
    'widths', coalesce((select json_object_agg(s.attname, s.avg_width * (1 - s.null_frac)) from pg_stats s
      where s.schemaname = ${relation.schema} and s.tablename = ${relation.name} and not s.inherited), '{}'),
    'indexes', coalesce((select json_agg(json_build_object(
      'name', ic.relname, 'method', am.amname,
      'plain', i.indpred is null and i.indexprs is null and not exists (
        select from unnest(i.indclass::oid[]) k(class) join pg_opclass o on o.oid = k.class
        where not o.opcdefault and o.opcname <> 'varchar_ops'),
      'trigrams', am.amname in ('gin', 'gist') and i.indpred is null and not exists (
        select from unnest(i.indclass::oid[]) k(class) join pg_opclass o on o.oid = k.class
        where o.opcname not in ('gin_trgm_ops', 'gist_trgm_ops')),
      'columns', (select json_agg(json_build_object(
          'name', coalesce(a.attname, ''),
          'descending', coalesce((o.option & 1) = 1, false),
          'nullsFirst', coalesce((o.option & 2) = 2, false)) order by k.place)
        from unnest(i.indkey::int2[]) with ordinality k(attnum, place)
        left join pg_attribute a on a.attrelid = i.indrelid and a.attnum = k.attnum and k.attnum > 0
        left join unnest(i.indoption::int2[]) with ordinality o(option, place) on o.place = k.place
        where k.place <= i.indnkeyatts)) order by ic.relname)
      from pg_index i join pg_class ic on ic.oid = i.indexrelid join pg_am am on am.oid = ic.relam
      where i.indrelid = c.oid and i.indisvalid), '[]'))
    from pg_class c where c.oid = ${table}::regclass`);
}

/**
 * An index that is there for the planner of one session alone (the extension hypopg, in `schema`):
 * what begins that, in one session before a plan is requested, and what ends it.
 */
export function compileSupposed(
  schema: string,
  wanted: WantedIndex,
  relations: Relations,
): { readonly begin: readonly Statement[]; readonly end: Statement } {
  const of = sql.identifier(schema);
  const end = write(sql`select ${of}.hypopg_reset()::text`);
  const index = compileIndex(wanted, relations, false);
  const make = write(sql`select indexrelid::text from ${of}.hypopg_create_index(${index})`);
  // What a question that broke off has left is dropped first.
  return { begin: [end, make], end };
}

/** Bytes of an index, about, where a table has so many rows and columns so wide on average, nulls among them. */
export function indexSize(
  { kind, columns }: WantedIndex,
  rows: number,
  widths: Readonly<Record<string, number>>,
): number {
  const wide = columns.reduce((sum, { name }) => sum + (widths[name] ?? 8), 0);
  // Of a B-tree each row has 12 bytes and its values, to eight bytes, in pages that are nine tenths full.
  if (kind === 'ordered') return Math.round((rows * (12 + Math.ceil(wide / 8) * 8)) / 0.9);
  // Measured (PostgreSQL 15, GIN): 2.0 bytes a character of 25,000 notes, 3.0 of 50,000 names.
  return Math.round(rows * wide * 2.5);
}

function plainly(name: string): IndexColumn {
  return { name, descending: false, nullsFirst: false };
}

/** What a question sorts by behind what it compares, as an ascending index where one is walked either way. */
function orderOf(order: readonly IndexColumn[], equal: readonly string[]): readonly IndexColumn[] {
  const rest = order.filter(({ name }) => !equal.includes(name));
  const turned = rest.map(({ name, descending, nullsFirst }) => ({
    name,
    descending: !descending,
    nullsFirst: !nullsFirst,
  }));
  return turned.every(({ descending, nullsFirst }) => !descending && !nullsFirst) ? turned : rest;
}

function termsOf(filter: CheckedExpression | undefined): readonly CheckedExpression[] {
  if (filter === undefined) return [];
  return filter.kind === 'and' ? filter.operands.flatMap(termsOf) : [filter];
}

/** A column of the table's own, of a type that is compared as an index keeps it. */
function ownColumn(scalar: CheckedScalar): string[] {
  if (scalar.kind !== 'column' || scalar.column.path.length > 0) return [];
  const { own, type } = scalar.column;
  // Object identifiers are compared as numbers, by another operator than their own.
  const cast = type.kind === 'integer' && type.databaseType !== undefined;
  return isComparable(type) && !cast ? [own] : [];
}

/** Whether parts of a column's texts are looked for as trigrams keep them: as plain text. */
function hasTrigrams({ kind, databaseType, nondeterministic }: ColumnType): boolean {
  return kind === 'text' && databaseType === undefined && nondeterministic !== true;
}

/** The column that a condition compares with one value, or with one of a few. */
function equalColumn(term: CheckedExpression): string[] {
  switch (term.kind) {
    case 'comparison':
      if (term.comparator !== '=') return [];
      if (term.right.kind === 'value') return ownColumn(term.left);
      return term.left.kind === 'value' ? ownColumn(term.right) : [];
    case 'in':
      // Of several values the order behind them is none.
      return term.members.length === 1 ? ownColumn(term.operand) : [];
    case 'isNull':
    case 'truth':
      return ownColumn(term.operand);
    default:
      return [];
  }
}

/** The column that a condition gives bounds, or several values. */
function rangeColumn(term: CheckedExpression): string[] {
  switch (term.kind) {
    case 'comparison':
      if (term.comparator === '<>') return [];
      return [...ownColumn(term.left), ...ownColumn(term.right)];
    case 'between':
    case 'in':
      return ownColumn(term.operand);
    default:
      return [];
  }
}

function likeIndexes({ table }: CheckedQuery, terms: readonly CheckedExpression[]): WantedIndex[] {
  const names = terms.flatMap((term) =>
    term.kind === 'like' && hasTrigrams(term.operand.type) ? ownColumn(term.operand) : [],
  );
  return [...new Set(names)].map((name) => ({
    kind: 'trigrams',
    table: table.name,
    columns: [plainly(name)],
    equal: 0,
  }));
}

/**
 * A search looks into columns of the table's own, and into rows that they refer to. As soon as it does
 * both, each row of the table is looked at, whatever there is: an index then serves the others alone.
 * Where one column of a table cannot be looked into by an index, the others are of no use.
 */
function searchIndexes({ table, search }: CheckedQuery): WantedIndex[] {
  if (search === undefined) return [];
  const { fullText, columns: all } = search;
  const related = all.filter(({ path }) => path.length > 0);
  const byTable = new Map<string, CheckedColumn[]>();
  for (const column of related.length > 0 ? related : all) {
    const of = column.path.at(-1)?.table ?? table.name;
    byTable.set(of, [...(byTable.get(of) ?? []), column]);
  }
  // By words they are all taken together as one text, which no index has of several tables.
  if (fullText !== undefined && related.length > 0) return [];
  return [...byTable]
    .filter(([, columns]) => columns.every(({ type }) => hasTrigrams(type)))
    .map(([of, columns]): WantedIndex => {
      const wanted = { table: of, columns: columns.map(({ own }) => plainly(own)), equal: 0 };
      return fullText === undefined
        ? { ...wanted, kind: 'trigrams' }
        : { ...wanted, kind: 'words', fullText };
    });
}
