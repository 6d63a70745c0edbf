import type { Relation } from '@ephoros/core/sql';
import type { RelationRow } from './relation.ts';

/** What the database does to rows that refer to a row which goes, or gets another key. */
type ReferenceRule = 'cascade' | 'set';

/** A foreign key by which rows of another table follow a row. */
export interface Referring {
  /** The published table whose rows refer; undefined of one that is not published. */
  readonly table: string | undefined;
  readonly relation: Relation;
  readonly columns: readonly string[];
  /** The columns that they refer to. */
  readonly references: readonly string[];
  /** Undefined where the database refuses the change instead. */
  readonly onDelete: ReferenceRule | undefined;
  readonly onUpdate: ReferenceRule | undefined;
}

const rules: Readonly<Record<string, ReferenceRule>> = { c: 'cascade', n: 'set', d: 'set' };

/** The foreign keys that lead to each published table and change rows by themselves, by its name. */
export function referringTo(
  tables: ReadonlyMap<string, { readonly relation: Relation }>,
  relations: readonly RelationRow[],
): ReadonlyMap<string, readonly Referring[]> {
  const names = new Map(
    [...tables].map(([name, { relation }]) => [placeOf(relation.schema, relation.name), name]),
  );
  const found = new Map<string, Referring[]>();
  for (const { schema, name, foreignKeys } of relations) {
    const table = names.get(placeOf(schema, name));
    for (const { columns, references, onDelete, onUpdate, ...to } of foreignKeys) {
      const target = names.get(placeOf(to.schema, to.table));
      const [removal, update] = [rules[onDelete], rules[onUpdate]];
      if (target === undefined || (removal === undefined && update === undefined)) continue;
      const others = found.get(target) ?? [];
      found.set(target, [
        ...others,
        {
          table,
          relation: { schema, name },
          columns,
          references,
          onDelete: removal,
          onUpdate: update,
        },
      ]);
    }
  }
  return found;
}

function placeOf(schema: string, name: string): string {
  return JSON.stringify([schema, name]);
}
