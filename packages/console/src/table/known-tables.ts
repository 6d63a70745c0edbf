import type { Tables } from '@ephoros/core/check';
import type { TableDescription } from '@ephoros/core/schema';
import { client } from '../service.ts';

/** A table, and the ones that can be reached from it. */
export interface KnownTables {
  readonly table: TableDescription;
  readonly tables: Tables;
}

/** Reads the description of a table and of those around it, over foreign keys in both directions. */
export async function describeAround(name: string, signal: AbortSignal): Promise<KnownTables> {
  const known = new Map<string, TableDescription>();
  let wanted = [name];
  while (wanted.length > 0) {
    const found = await Promise.all(wanted.map((one) => client.describe(one, signal)));
    for (const table of found) known.set(table.name, table);
    const around = found.flatMap(({ relationships }) => relationships.map(({ table }) => table));
    wanted = [...new Set(around)].filter((one) => !known.has(one));
  }
  const table = known.get(name);
  if (table === undefined) throw new Error(`the service describes ${name} by another name`);
  return { table, tables: (one) => known.get(one) };
}
