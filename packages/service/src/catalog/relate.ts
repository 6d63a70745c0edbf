import type { Relationship, TableDescription } from '@ephoros/core/schema';
import type { Relation } from '@ephoros/core/sql';
import type { Configuration } from '../config/index.ts';
import type { RelationRow } from './relation.ts';

interface Related {
  readonly description: TableDescription;
  readonly relation: Relation;
}

interface Link {
  readonly from: string;
  readonly to: string;
  readonly columns: readonly string[];
  readonly references: readonly string[];
  readonly name: string;
}

/**
 * Adds to every published table its relationships: to the tables it refers to, and to those that
 * refer to it. A foreign key counts where both tables and all its columns are published.
 */
export function relate(
  tables: Map<string, Related>,
  relations: readonly RelationRow[],
  configuration: Configuration,
  say: (path: readonly PropertyKey[], message: string) => void,
): void {
  const names = new Map([...tables].map(([name, { relation }]) => [placeOf(relation), name]));
  const links = relations.flatMap((relation) => {
    const from = names.get(placeOf(relation));
    return from === undefined ? [] : linksOf(relation, from, names, tables, configuration, say);
  });
  for (const [name, published] of tables) {
    const relationships = [
      ...toOne(name, links),
      ...toMany(name, links, published.relation.schema),
    ];
    tables.set(name, { ...published, description: { ...published.description, relationships } });
  }
}

function placeOf({ schema, name }: { schema: string; name: string }): string {
  return JSON.stringify([schema, name]);
}

function linksOf(
  { schema, name, foreignKeys }: RelationRow,
  from: string,
  names: ReadonlyMap<string, string>,
  tables: ReadonlyMap<string, Related>,
  { tables: settings = {} }: Configuration,
  say: (path: readonly PropertyKey[], message: string) => void,
): Link[] {
  const listed = [name, `${schema}.${name}`].find((one) => one in settings);
  const chosen = (listed === undefined ? undefined : settings[listed]?.relationships) ?? {};
  const links = foreignKeys.flatMap(({ columns, references, ...other }): Link[] => {
    const to = names.get(placeOf({ schema: other.schema, name: other.table }));
    if (to === undefined) return [];
    if (!published(tables.get(from), columns) || !published(tables.get(to), references)) return [];
    const own = chosen[columns.join(',')];
    return [{ from, to, columns, references, name: own ?? nameOf(columns, to) }];
  });
  for (const key of Object.keys(chosen)) {
    if (!links.some(({ columns }) => columns.join(',') === key)) {
      say(['tables', listed ?? name, 'relationships', key], `${from} has no foreign key on ${key}`);
    }
  }
  // Two of one name: each is called after all its columns.
  return links.map((link) =>
    links.filter((other) => other.name === link.name).length === 1
      ? link
      : { ...link, name: link.columns.join('_') },
  );
}

function published(table: Related | undefined, columns: readonly string[]): boolean {
  const known = new Set(table?.description.columns.map((column) => column.name));
  return columns.every((column) => known.has(column));
}

/** `lock_id` → `lock`; a key of several columns is called after the table it leads to. */
function nameOf(columns: readonly string[], to: string): string {
  const [only = to] = columns;
  if (columns.length > 1) return to;
  return only.replace(/_?id$/i, '') || only;
}

function toOne(name: string, links: readonly Link[]): Relationship[] {
  return links
    .filter(({ from }) => from === name)
    .map(({ name: called, to, columns, references }) => ({
      name: called,
      kind: 'one',
      table: to,
      columns,
      references,
    }));
}

function toMany(name: string, links: readonly Link[], schema: string): Relationship[] {
  const incoming = links.filter(({ to }) => to === name);
  return incoming.map(({ name: called, from, columns, references }) => ({
    name:
      incoming.filter((other) => other.from === from).length === 1
        ? within(from, schema)
        : `${within(from, schema)}_via_${called}`,
    kind: 'many',
    table: from,
    columns: references,
    references: columns,
  }));
}

/** A table's name as tables of the same schema know it. */
function within(table: string, schema: string): string {
  return table.startsWith(`${schema}.`) ? table.slice(schema.length + 1) : table;
}
