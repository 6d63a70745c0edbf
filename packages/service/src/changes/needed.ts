import type { TableChanges } from '../catalog/index.ts';
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
