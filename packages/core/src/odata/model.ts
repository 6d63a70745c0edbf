import type { ColumnDescription, Relationship, TableDescription, Tables } from '../schema/index.ts';
import { edmTypeOf, isKeyType, type EdmType } from './edm.ts';
import { identifierOf } from './identifier.ts';

/** A column as OData has it. */
export interface EdmProperty {
  readonly name: string;
  readonly column: ColumnDescription;
  readonly type: EdmType;
}

/** A way from a table along a foreign key. */
export interface EdmNavigation {
  readonly name: string;
  readonly relationship: Relationship;
  /** The table that it leads to. */
  readonly target: TableDescription;
}

/** A published table as an entity set, its type of the same name. */
export interface Entity {
  readonly name: string;
  readonly table: TableDescription;
  readonly properties: readonly EdmProperty[];
  readonly navigations: readonly EdmNavigation[];
}

const made = new WeakMap<
  TableDescription,
  { readonly tables: Tables; readonly entity: Entity | undefined }
>();

/**
 * A table as an entity set; undefined for one without a key, or with one that OData's types cannot be (CSDL 4.01,
 * 6.5).
 */
export function entityOf(table: TableDescription, tables: Tables): Entity | undefined {
  const known = made.get(table);
  if (known?.tables === tables) return known.entity;
  const entity = hasKey(table) ? make(table, tables) : undefined;
  made.set(table, { tables, entity });
  return entity;
}

function hasKey({ key, columns }: TableDescription): boolean {
  const parts = key.map((name) => columns.find((column) => column.name === name));
  return (
    key.length > 0 && parts.every((part) => part !== undefined && isKeyType(edmTypeOf(part.type)))
  );
}

function make(table: TableDescription, tables: Tables): Entity {
  const properties = table.columns.map((column) => ({
    name: identifierOf(column.name),
    column,
    type: edmTypeOf(column.type),
  }));
  const taken = new Set(properties.map(({ name }) => name));
  const navigations = table.relationships.flatMap((relationship): readonly EdmNavigation[] => {
    const name = identifierOf(relationship.name);
    const target = tables(relationship.table);
    // One name has one meaning: a column keeps its own.
    if (target === undefined || !hasKey(target) || taken.has(name)) return [];
    taken.add(name);
    return [{ name, relationship, target }];
  });
  return { name: identifierOf(table.name), table, properties, navigations };
}
