import { checkQuery } from '@ephoros/core/check';
import { defaultLimits } from '@ephoros/core/expression';
import { nearest } from '@ephoros/core/problem';
import type { ParameterLimits } from '@ephoros/core/query';
import {
  findColumn,
  withReferences,
  type ColumnType,
  type TableDescription,
  type Tables,
} from '@ephoros/core/schema';
import type { Relation } from '@ephoros/core/sql';
import type { ConfigurationFile, TableConfiguration } from '../config/index.ts';
import { describeTable } from './describe.ts';
import type { GrantRow, RelationRow } from './relation.ts';
import { referringTo, type Referring } from './referring.ts';
import { relate } from './relate.ts';
import { baseOf, columnType, type TypeRow } from './types.ts';
import { openingOf, withOpening } from './opening.ts';
import { checkRules, withChanges, writingTo, type Writing } from './writing.ts';

/** A published table: what it reports, and where it lies. */
export interface Published {
  readonly description: TableDescription;
  readonly relation: Relation;
  /** Undefined where nothing is written to it. */
  readonly writing?: Writing;
}

/** What may, or shall, be done to a table: the columns of new rows, those of rows that are there, whether rows go. */
export interface TableChanges {
  readonly add: readonly string[];
  readonly change: readonly string[];
  readonly remove: boolean;
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
  /** The foreign keys by which rows of other tables follow those of a table, for all callers. */
  readonly referring: (table: string) => readonly Referring[];
  /** A published table with all its columns, for all callers. */
  readonly whole: (table: string) => Published | undefined;
  /** Whether it is known what the role of changes may write; without such a role it is. */
  readonly isWritableKnown: boolean;
  /** The same for the same tables, columns, types and estimates. */
  readonly fingerprint: string;
  /** Whether it is what one caller may see, and not all there is. */
  readonly restricted: boolean;
  /** Whether some of its tables have rows that the caller may not see. */
  readonly ruled: boolean;
  /** The tables as changes go by them, where that is less than what is shown: by what is done to which of them. */
  readonly changing?: (needed: ReadonlyMap<string, TableChanges>) => Catalog;
  /** Columns, by table, that are shown in some of the rows only, and are null in the others. */
  readonly partly?: ReadonlyMap<string, ReadonlySet<string>>;
}

interface ConfigurationFault {
  readonly path: readonly PropertyKey[];
  readonly message: string;
}

/** Characters of one parameter in a URL. */
const defaultCharacters = 16_384;

/** Lays the configuration over what the database says. @throws ConfigurationError */
export function publish(
  relations: readonly RelationRow[],
  types: ReadonlyMap<number, TypeRow>,
  {
    unicode,
    fingerprint,
    isWritableKnown,
  }: Pick<Catalog, 'unicode' | 'fingerprint' | 'isWritableKnown'>,
  file: ConfigurationFile,
  granted?: readonly GrantRow[],
): Catalog {
  const { configuration } = file;
  const namesOf = namesIn(relations);
  const settings = new Map(Object.entries(configuration.tables ?? {}));
  const errors: ConfigurationFault[] = [];
  const names = new Set(relations.flatMap((relation) => namesOf(relation)));
  for (const name of settings.keys()) {
    if (names.has(name)) continue;
    const near = nearest(name, names);
    const message = `the role can read no table ${name}${near === undefined ? '' : `; perhaps ${near}`}`;
    errors.push({ path: ['tables', name], message });
  }
  const tables = new Map<string, Published>();
  const configuredSearch = new Set<string>();
  for (const relation of relations) {
    const setting = namesOf(relation).find((name) => settings.has(name));
    const own = setting === undefined ? {} : (settings.get(setting) ?? {});
    if (own.hidden === true || (configuration.publish === 'listed' && setting === undefined))
      continue;
    const path = ['tables', setting ?? ''];
    const name = own.name ?? namesOf(relation)[0] ?? relation.name;
    if (tables.has(name)) {
      errors.push({ path: [...path, 'name'], message: `two tables would be called ${name}` });
      continue;
    }
    if (own.search !== undefined) configuredSearch.add(name);
    const say = (at: readonly PropertyKey[], message: string): void => {
      errors.push({ path: [...path, ...at], message });
    };
    const grants = granted?.find(
      (one) => one.schema === relation.schema && one.name === relation.name,
    );
    const plain = describeTable(name, relation, types, own, say);
    const description = withChanges(plain, relation, own, grants, say);
    const writing = writingTo(description, relation, types, own, grants);
    tables.set(name, {
      description,
      ...(writing && { writing }),
      relation: {
        schema: relation.schema,
        name: relation.name,
        types: new Map(
          relation.columns.map(({ name, type }) => [name, baseOf(type, types)?.id ?? type]),
        ),
      },
    });
  }
  relate(tables, relations, configuration, (path, message) => errors.push({ path, message }));
  const describe = (table: string): TableDescription | undefined => tables.get(table)?.description;
  for (const [name, published] of tables) {
    const description = withReferences(published.description, describe);
    const search = configuredSearch.has(name)
      ? description.search
      : [...description.search, ...namesSearched(description, describe)];
    const described = { ...description, search };
    const { writing } = published;
    const { relationships } = described;
    tables.set(name, {
      ...published,
      description: described,
      ...(writing && { writing: { ...writing, whole: { ...writing.whole, relationships } } }),
    });
  }
  for (const [index, { table }] of (configuration.spelling ?? []).entries()) {
    if (table === undefined || tables.has(table)) continue;
    const near = nearest(table, tables.keys());
    const message = `no table is published as ${table}${near === undefined ? '' : `; perhaps ${near}`}`;
    errors.push({ path: ['spelling', index, 'table'], message });
  }
  for (const [name, own] of settings) {
    const description = tables.get(own.name ?? name)?.description;
    if (description === undefined) continue;
    errors.push(...searchErrors(name, own, description, describe));
    const notify = (path: readonly PropertyKey[], message: string): void => {
      errors.push({ path: ['tables', name, ...path], message });
    };
    checkRules(description, own, describe, notify);
    const opened = withOpening(description, openingOf(own), describe, notify);
    const published = tables.get(description.name);
    if (published !== undefined)
      tables.set(description.name, { ...published, description: opened });
  }
  if (errors.length > 0) throw file.refuse(errors);
  const referring = referringTo(tables, relations);
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
    describe,
    locate: (table) => {
      const published = tables.get(table);
      if (published === undefined) throw new Error(`no table ${table} is published`);
      return published.relation;
    },
    typeOf: (id) => (types.has(id) ? columnType(id, -1, types) : undefined),
    referring: (table) => referring.get(table) ?? [],
    whole: (table) => tables.get(table),
    unicode,
    fingerprint,
    isWritableKnown,
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

/** What names the rows that others are shown by is looked through as well; not word by word. */
function namesSearched(table: TableDescription, describe: Tables): readonly string[] {
  if (table.fullText !== undefined) return [];
  return table.columns.flatMap(({ shownAs, shown }) => {
    if (shownAs === undefined || !shown) return [];
    const found = findColumn(shownAs, table, describe);
    return 'own' in found && found.type.kind === 'text' ? [shownAs] : [];
  });
}

/** What is set, without what is left open. */
function given(settings: object): Partial<ParameterLimits> {
  return Object.fromEntries(Object.entries(settings).filter(([, value]) => value !== undefined));
}

/** What the configuration would search must be there, and be text. */
function searchErrors(
  table: string,
  { search = [] }: TableConfiguration,
  description: TableDescription,
  describe: Tables,
): ConfigurationFault[] {
  return search.flatMap((name, index): ConfigurationFault[] => {
    const columns = [{ name, span: { start: 0, end: name.length } }];
    const read = checkQuery({ columns }, description, { tables: describe });
    const found = 'checked' in read ? read.checked.columns : [];
    if (found.some(({ type }) => type.kind === 'text')) return [];
    const message = 'problems' in read ? read.problems[0]?.message : undefined;
    return [
      { path: ['tables', table, 'search', index], message: message ?? `${name} is no text column` },
    ];
  });
}
