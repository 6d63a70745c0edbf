import { checkQuery } from '@ephoros/core/check';
import { defaultLimits } from '@ephoros/core/expression';
import { nearest } from '@ephoros/core/problem';
import { parseSort, type ParameterLimits } from '@ephoros/core/query';
import {
  aggregatesOf,
  aggregatesOfIdentifier,
  encodingOf,
  ignoresCase,
  isComparable,
  isSortable,
  labelOf,
  namedBy,
  typeName,
  type AggregateName,
  type ColumnDescription,
  type ColumnType,
  type SortDefault,
  type TableDescription,
} from '@ephoros/core/schema';
import type { Relation } from '@ephoros/core/sql';
import type { ConfigurationFile, TableConfiguration } from '../config/index.ts';
import type { RelationRow } from './relation.ts';
import { relate } from './relate.ts';
import { baseOf, columnType, type TypeRow } from './types.ts';

/** A published table: what it tells, and where it lies. */
export interface Published {
  readonly description: TableDescription;
  readonly relation: Relation;
}

/** The published tables, in the order in which they are listed. */
export interface Catalog {
  readonly title: string;
  readonly tables: ReadonlyMap<string, Published>;
  /** A published table's description, for related columns. */
  readonly describe: (table: string) => TableDescription | undefined;
  /** What a filter, and a parameter in a URL, may be at most. */
  readonly limits: ParameterLimits;
  /** Where a published table lies. */
  readonly locate: (table: string) => Relation;
  /** The type that an id of the database stands for; undefined for one that came up since. */
  readonly typeOf: (id: number) => ColumnType | undefined;
  /** Whether the database keeps texts in UTF-8, as functions of letters need it. */
  readonly unicode: boolean;
  /** The same for the same tables, columns, types and estimates. */
  readonly fingerprint: string;
  /** Whether it is what one caller may see, and not all there is. */
  readonly restricted: boolean;
  /** Whether some of its tables have rows that the caller may not see. */
  readonly ruled: boolean;
}

interface Mistake {
  readonly path: readonly PropertyKey[];
  readonly message: string;
}

const defaultPageSizes = [50, 100, 200];
const defaultRowCap = 1_000;
/** Characters of one parameter in a URL. */
const defaultCharacters = 16_384;

/** Lays the configuration over what the database says. @throws ConfigurationError */
export function publish(
  relations: readonly RelationRow[],
  types: ReadonlyMap<number, TypeRow>,
  { unicode, fingerprint }: Pick<Catalog, 'unicode' | 'fingerprint'>,
  file: ConfigurationFile,
): Catalog {
  const { configuration } = file;
  const namesOf = namesIn(relations);
  const settings = new Map(Object.entries(configuration.tables ?? {}));
  const mistakes: Mistake[] = [];
  const names = new Set(relations.flatMap((relation) => namesOf(relation)));
  for (const name of settings.keys()) {
    if (names.has(name)) continue;
    const near = nearest(name, names);
    const message = `the role can read no table ${name}${near === undefined ? '' : `; perhaps ${near}`}`;
    mistakes.push({ path: ['tables', name], message });
  }
  const tables = new Map<string, Published>();
  for (const relation of relations) {
    const setting = namesOf(relation).find((name) => settings.has(name));
    const own = setting === undefined ? {} : (settings.get(setting) ?? {});
    if (own.hidden === true || (configuration.publish === 'listed' && setting === undefined))
      continue;
    const path = ['tables', setting ?? ''];
    const name = own.name ?? namesOf(relation)[0] ?? relation.name;
    if (tables.has(name)) {
      mistakes.push({ path: [...path, 'name'], message: `two tables would be called ${name}` });
      continue;
    }
    const say = (at: readonly PropertyKey[], message: string): void => {
      mistakes.push({ path: [...path, ...at], message });
    };
    tables.set(name, {
      description: describe(name, relation, types, own, say),
      relation: {
        schema: relation.schema,
        name: relation.name,
        types: new Map(
          relation.columns.map(({ name, type }) => [name, baseOf(type, types)?.id ?? type]),
        ),
      },
    });
  }
  relate(tables, relations, configuration, (path, message) => mistakes.push({ path, message }));
  for (const [name, own] of settings) {
    const description = tables.get(own.name ?? name)?.description;
    if (description !== undefined) mistakes.push(...searchMistakes(name, own, description, tables));
  }
  if (mistakes.length > 0) throw file.refuse(mistakes);
  // Listed tables come first, in the order of the file.
  const listed = [...settings.entries()].map(([name, own]) => own.name ?? name);
  const order = new Map(listed.map((name, index) => [name, index]));
  const sorted = [...tables].sort(
    ([one], [other]) => (order.get(one) ?? listed.length) - (order.get(other) ?? listed.length),
  );
  return {
    title: configuration.title ?? 'Ephoros',
    tables: new Map(sorted),
    limits: {
      ...defaultLimits,
      characters: defaultCharacters,
      ...given(configuration.limits ?? {}),
    },
    describe: (table) => tables.get(table)?.description,
    locate: (table) => {
      const published = tables.get(table);
      if (published === undefined) throw new Error(`no table ${table} is published`);
      return published.relation;
    },
    typeOf: (id) => (types.has(id) ? columnType(id, -1, types) : undefined),
    unicode,
    fingerprint,
    restricted: false,
    ruled: false,
  };
}

/**
 * What each relation may be called, the first name first. A table of the schema `public` is known
 * by its name alone as well. Where dots make two the same, both have their parts in quotes.
 */
function namesIn(relations: readonly RelationRow[]): (relation: RelationRow) => string[] {
  const counts = new Map<string, number>();
  for (const name of relations.flatMap(plainNames)) counts.set(name, (counts.get(name) ?? 0) + 1);
  return (relation) => {
    const names = plainNames(relation);
    if (names.every((name) => counts.get(name) === 1)) return names;
    return [`"${relation.schema}"."${relation.name}"`];
  };
}

function plainNames({ schema, name }: RelationRow): string[] {
  return schema === 'public' ? [name, `public.${name}`] : [`${schema}.${name}`];
}

function describe(
  name: string,
  relation: RelationRow,
  types: ReadonlyMap<number, TypeRow>,
  own: TableConfiguration,
  say: (path: readonly PropertyKey[], message: string) => void,
): TableDescription {
  const known = relation.columns.map((column) => column.name);
  const exists = (column: string, path: readonly PropertyKey[]): boolean => {
    if (known.includes(column)) return true;
    const near = nearest(column, known);
    say(path, `${name} has no column ${column}${near === undefined ? '' : `; perhaps ${near}`}`);
    return false;
  };
  for (const column of Object.keys(own.columns ?? {})) exists(column, ['columns', column]);
  const first = (own.order ?? []).filter((column, index) => exists(column, ['order', index]));
  const columns = relation.columns
    .filter((column) => own.columns?.[column.name]?.hidden !== true)
    .map((column) => describeColumn(column, relation, types, own))
    .sort((one, other) => placeIn(first, one.name) - placeIn(first, other.name));
  const visible = new Set(columns.map((column) => column.name));
  const key = keyOf(relation, visible, own, (column, index) => exists(column, ['key', index]));
  const identifiers = new Set([...key, ...relation.foreignKeys.flatMap((one) => one.columns)]);
  const sort = own.sort === undefined ? [] : readSort(own.sort, columns, name, say);
  const { title, pageSizes, rowCap = defaultRowCap } = own;
  const comment = relation.comment ?? undefined;
  return {
    name,
    title: title ?? labelOf(relation.name),
    kind: relation.kind === 'v' || relation.kind === 'm' ? 'view' : 'table',
    ...(comment === undefined ? {} : { comment }),
    key,
    columns: columns.map((column) => ({
      ...namedBy(column, identifiers),
      aggregates: aggregatesFor(column, identifiers.has(column.name), own, say),
    })),
    relationships: [],
    search: own.search ?? columns.filter(({ type }) => type.kind === 'text').map((one) => one.name),
    ...(own.fullText === undefined ? {} : { fullText: own.fullText }),
    defaultSort: sort,
    pageSizes: pageSizesWithin(pageSizes ?? defaultPageSizes, rowCap),
    rowCap,
    estimatedRows: relation.estimated,
    remarks: remarksOf(key),
  };
}

/** What readers of a table with such a key should know. */
export function remarksOf(key: readonly string[]): readonly string[] {
  if (key.length > 0) return [];
  return [
    'This table has no key: its rows have no addresses, and rows that tie in the sort may trade places between pages.',
  ];
}

type OwnColumn = RelationRow['columns'][number];

function describeColumn(
  { name, type: id, modifier, nullable, deterministic, order, comment }: OwnColumn,
  { indexes }: RelationRow,
  types: ReadonlyMap<number, TypeRow>,
  own: TableConfiguration,
): Omit<ColumnDescription, 'aggregates'> {
  const plain = columnType(id, modifier, types);
  const type: ColumnType =
    deterministic || plain.kind !== 'text' ? plain : { ...plain, nondeterministic: true };
  const { label, format, shown, groupable } = own.columns?.[name] ?? {};
  return {
    name,
    label: label ?? labelOf(name),
    type,
    encoding: encodingOf(type),
    nullable: nullable && types.get(id)?.notNull !== true,
    sortable: isSortable(type),
    filterable: true,
    indexed: indexes.some((index) => index.usable && index.columns[0] === name),
    shown: shown ?? true,
    groupable: groupable ?? isComparable(type),
    // The schema's optional members are absent, not undefined, once read from YAML.
    ...(format === undefined ? {} : { format: format as NonNullable<ColumnDescription['format']> }),
    ...(order === null || ignoresCase(type) ? {} : { textOrder: order }),
    ...(comment === null ? {} : { comment }),
  };
}

/** What may be made of a column: as the configuration says, else as its type allows. */
function aggregatesFor(
  { name, type }: Pick<ColumnDescription, 'name' | 'type'>,
  identifier: boolean,
  { columns = {} }: TableConfiguration,
  say: (path: readonly PropertyKey[], message: string) => void,
): readonly AggregateName[] {
  const possible = aggregatesOf(type);
  const chosen = columns[name]?.aggregates;
  if (chosen === undefined) return identifier ? aggregatesOfIdentifier(type) : possible;
  for (const [index, one] of chosen.entries()) {
    if (possible.includes(one)) continue;
    const path = ['columns', name, 'aggregates', index];
    say(path, `there is no ${one} of ${name} (${typeName(type)})`);
  }
  return chosen;
}

/** The configured key, else the primary key, else the shortest unique index without nulls. */
function keyOf(
  relation: RelationRow,
  visible: ReadonlySet<string>,
  own: TableConfiguration,
  exists: (column: string, index: number) => boolean,
): string[] {
  if (own.key !== undefined) return own.key.filter((column, index) => exists(column, index));
  // Two tables that share their rows have an index each, and no row is the only one of its key.
  if (relation.inherited) return [];
  const nullable = new Set(
    relation.columns.filter((column) => column.nullable).map((column) => column.name),
  );
  for (const { primary, unique, columns } of relation.indexes) {
    const names = columns.filter((column) => column !== null);
    const whole = names.length === columns.length && names.every((column) => visible.has(column));
    if (whole && unique && (primary || !names.some((column) => nullable.has(column)))) return names;
  }
  return [];
}

function readSort(
  text: string,
  columns: readonly Pick<ColumnDescription, 'name' | 'sortable'>[],
  table: string,
  say: (path: readonly PropertyKey[], message: string) => void,
): SortDefault[] {
  const { terms, problems } = parseSort(text);
  for (const { message } of problems) say(['sort'], message);
  return terms.flatMap(({ column: { name }, descending }) => {
    const column = columns.find((one) => one.name === name);
    if (column?.sortable === true) return [{ column: name, descending }];
    say(['sort'], `${table} cannot be sorted by ${name}`);
    return [];
  });
}

function placeIn(list: readonly string[], name: string): number {
  const place = list.indexOf(name);
  return place === -1 ? list.length : place;
}

function pageSizesWithin(sizes: readonly number[], rowCap: number): readonly number[] {
  const within = sizes.filter((size) => size <= rowCap);
  return within.length > 0 ? within : [rowCap];
}

/** What is set, without what is left open. */
function given(settings: object): Partial<ParameterLimits> {
  return Object.fromEntries(Object.entries(settings).filter(([, value]) => value !== undefined));
}

/** What the configuration would search must be there, and be text. */
function searchMistakes(
  table: string,
  { search = [] }: TableConfiguration,
  description: TableDescription,
  tables: ReadonlyMap<string, Published>,
): Mistake[] {
  return search.flatMap((name, index): Mistake[] => {
    const columns = [{ name, span: { start: 0, end: name.length } }];
    const read = checkQuery({ columns }, description, {
      tables: (other) => tables.get(other)?.description,
    });
    const found = 'checked' in read ? read.checked.columns : [];
    if (found.some(({ type }) => type.kind === 'text')) return [];
    const told = 'problems' in read ? read.problems[0]?.message : undefined;
    return [
      { path: ['tables', table, 'search', index], message: told ?? `${name} is no text column` },
    ];
  });
}
