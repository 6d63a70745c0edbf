import { nearest } from '@ephoros/core/problem';
import { parseSort } from '@ephoros/core/query';
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
import type { TableConfiguration } from '../config/index.ts';
import type { RelationRow } from './relation.ts';
import { columnType, type TypeRow } from './types.ts';

const defaultPageSizes = [50, 100, 200];
const defaultRowCap = 1_000;

/** What a table reports about itself: what the database says, and the configuration over it. */
export function describeTable(
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
  const sections = sectionsWithin(columns, own, exists);
  const visible = new Set(columns.map((column) => column.name));
  const key = keyOf(relation, visible, own, (column, index) => exists(column, ['key', index]));
  const label = labelColumn(columns, key, relation, own, exists);
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
    ...(label === undefined ? {} : { label }),
    columns: columns.map((column) => {
      checkLabels(column, say);
      return {
        ...namedBy(column, identifiers),
        aggregates: aggregatesFor(column, identifiers.has(column.name), own, say),
      };
    }),
    relationships: [],
    ...(sections.length === 0 ? {} : { sections }),
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
  const { label, format, shown, groupable, valueLabels } = own.columns?.[name] ?? {};
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
    ...(valueLabels === undefined ? {} : { valueLabels }),
    ...(order === null || ignoresCase(type) ? {} : { textOrder: order }),
    ...(comment === null ? {} : { comment }),
  };
}

/** Reports names for values that an enum does not have. */
function checkLabels(
  { name, type, valueLabels = {} }: Pick<ColumnDescription, 'name' | 'type' | 'valueLabels'>,
  say: (path: readonly PropertyKey[], message: string) => void,
): void {
  if (type.kind !== 'enum') return;
  for (const value of Object.keys(valueLabels)) {
    if (type.values.includes(value)) continue;
    const known = type.values.join(', ');
    say(['columns', name, 'valueLabels', value], `${name} has no value ${value}; it has ${known}`);
  }
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

/** What a column that names its row is called, the likeliest first. */
const namesOfLabels = ['name', 'title', 'label', 'code'];

/**
 * The configured label; else, of the texts that every row has next to its key, the only one that no
 * two rows share, or the one that is called as such columns are, or the only one there is.
 */
function labelColumn(
  columns: readonly Omit<ColumnDescription, 'aggregates'>[],
  key: readonly string[],
  { indexes }: RelationRow,
  { label }: TableConfiguration,
  exists: (column: string, path: readonly PropertyKey[]) => boolean,
): string | undefined {
  if (label !== undefined && !exists(label, ['label'])) return undefined;
  if (label !== undefined) return columns.find(({ name }) => name === label)?.name;
  const texts = columns.filter(
    ({ name, type, format, nullable }) =>
      type.kind === 'text' &&
      !nullable &&
      !key.includes(name) &&
      format?.kind !== 'picture' &&
      format?.kind !== 'link',
  );
  const unique = texts.filter((column) =>
    indexes.some((one) => one.unique && one.columns.length === 1 && one.columns[0] === column.name),
  );
  if (unique.length === 1) return unique[0]?.name;
  const usual = namesOfLabels.find((name) =>
    texts.some((column) => column.name.toLowerCase() === name),
  );
  if (usual === undefined) return texts.length === 1 ? texts[0]?.name : undefined;
  return texts.find((column) => column.name.toLowerCase() === usual)?.name;
}

/** The configured sections; a column stands in one of them. */
function sectionsWithin(
  columns: readonly { readonly name: string }[],
  { sections = {} }: TableConfiguration,
  exists: (column: string, path: readonly PropertyKey[]) => boolean,
): NonNullable<TableDescription['sections']> {
  const left = new Set(columns.map(({ name }) => name));
  return Object.entries(sections).flatMap(([title, names]) => {
    const own = names.filter(
      (name, index) => exists(name, ['sections', title, index]) && left.delete(name),
    );
    return own.length === 0 ? [] : [{ title, columns: own }];
  });
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
