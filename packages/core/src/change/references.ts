import type { CheckedChange } from './checked.ts';

/** The additions of a set that a change refers to, by name. */
function referredBy(change: CheckedChange): readonly string[] {
  if (change.kind === 'remove') return [];
  return [...change.values.values()].flatMap((value) =>
    typeof value === 'object' && value !== null ? [value.ref] : [],
  );
}

/**
 * Changes in an order in which the database can make them: every new row is there before others refer
 * to it, and rows leave a row that goes before it does, which might take them with it. Else as they
 * were given. Undefined where new rows refer to each other in a circle.
 */
export function inOrderOfReferences(
  changes: readonly CheckedChange[],
): readonly CheckedChange[] | undefined {
  const ordered = afterTheirReferences(changes);
  return ordered && removalsAfterTheirRows(ordered);
}

/** Removals behind all changes of tables that refer to theirs. */
function removalsAfterTheirRows(changes: readonly CheckedChange[]): readonly CheckedChange[] {
  // What matches a filter depends on what was done before.
  if (changes.some(({ kind }) => kind === 'set')) return changes;
  const moved = changes.filter(({ kind }) => kind !== 'add');
  const referring = new Map<string, Set<string>>();
  for (const { table } of moved) {
    for (const { kind, table: to } of table.relationships) {
      if (kind === 'one') referring.set(to, (referring.get(to) ?? new Set()).add(table.name));
    }
  }
  const levels = new Map<string, number>();
  const levelOf = (table: string, above: readonly string[] = []): number => {
    const known = levels.get(table);
    if (known !== undefined) return known;
    const others = [...(referring.get(table) ?? [])].filter((other) => !above.includes(other));
    const level =
      others.length === 0
        ? 0
        : 1 + Math.max(...others.map((other) => levelOf(other, [...above, table])));
    levels.set(table, level);
    return level;
  };
  const place = (change: CheckedChange): number =>
    change.kind === 'remove' ? levelOf(change.table.name) : 0;
  return [...changes].sort((one, other) => place(one) - place(other));
}

/**
 * Changes in an order in which every new row is there before others refer to it; else as they were
 * given. Undefined where they refer to each other in a circle.
 */
function afterTheirReferences(
  changes: readonly CheckedChange[],
): readonly CheckedChange[] | undefined {
  const named = new Map<string, CheckedChange>();
  for (const change of changes) {
    if (change.kind === 'add' && change.ref !== undefined) named.set(change.ref, change);
  }
  if (named.size === 0) return changes;
  const ordered = new Set<CheckedChange>();
  // Put off, with those that they wait for on top: a long chain needs no deep recursion.
  for (const first of changes) {
    const waiting = [first];
    const open = new Set<CheckedChange>();
    for (let change = waiting.at(-1); change !== undefined; change = waiting.at(-1)) {
      const missing = referredBy(change)
        .flatMap((ref) => named.get(ref) ?? [])
        .filter((other) => !ordered.has(other));
      if (missing.length === 0) {
        ordered.add(change);
        open.delete(change);
        waiting.pop();
      } else {
        if (missing.some((other) => open.has(other)) || missing.includes(change)) return undefined;
        open.add(change);
        waiting.push(...missing);
      }
    }
  }
  return [...ordered];
}
