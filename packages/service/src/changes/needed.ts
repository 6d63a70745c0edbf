import type { Catalog, TableChanges } from '../catalog/index.ts';
import type { LoggedEntry } from '../records/index.ts';
import type { GivenSet } from './saving.ts';

/** What a set wants done to each table, by its name. */
export function neededBy({ changes, table }: GivenSet): ReadonlyMap<string, TableChanges> {
  const needed = new Map<string, TableChanges>();
  for (const one of changes) {
    const name = one.table ?? table ?? '';
    const { add, change, remove } = needed.get(name) ?? { add: [], change: [], remove: false };
    const columns = one.kind === 'remove' ? [] : Object.keys(one.values);
    needed.set(name, {
      add: one.kind === 'add' ? [...new Set([...add, ...columns])] : add,
      change: one.kind === 'add' ? change : [...new Set([...change, ...columns])],
      remove: remove || one.kind === 'remove',
    });
  }
  return needed;
}

/**
 * What an undo of some changes does to each table, by its name: of the columns that a caller sees. What else a row had is
 * restored with it.
 */
export function neededToUndo(
  entries: readonly LoggedEntry[],
  { describe }: Pick<Catalog, 'describe'>,
): ReadonlyMap<string, TableChanges> {
  const needed = new Map<string, TableChanges>();
  for (const { table, kind, columns, rule } of entries) {
    // The database makes it again by itself.
    if (rule === 'update cascade') continue;
    const { add, change, remove } = needed.get(table) ?? { add: [], change: [], remove: false };
    const shown = new Set(describe(table)?.columns.map(({ name }) => name));
    const names = columns.filter((name) => shown.has(name));
    needed.set(table, {
      add: kind === 'remove' ? [...new Set([...add, ...names])] : add,
      change: kind === 'change' ? [...new Set([...change, ...names])] : change,
      remove: remove || kind === 'add',
    });
  }
  return needed;
}
