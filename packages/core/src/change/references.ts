import type { CheckedChange } from './checked.ts';

/** The additions of a set that a change refers to, by name. */
function referredBy(change: CheckedChange): readonly string[] {
  if (change.kind === 'remove') return [];
  return [...change.values.values()].flatMap((value) =>
    typeof value === 'object' && value !== null ? [value.ref] : [],
  );
}

/**
 * Changes in an order in which every new row is there before others refer to it; else as they were
 * given. Undefined where they refer to each other in a circle.
 */
export function inOrderOfReferences(
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
