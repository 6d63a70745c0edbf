import type { OutlineSource, Row, RowSource, Value } from '@ephoros/client';
import { rowAt } from '../table/row-at.ts';

/** The rows in view at a moment: where each stands, and what it holds, by its key. */
export type RowSnapshot = ReadonlyMap<string, { readonly position: number; readonly row: Row }>;

/** What of the rows in view is another than it was. */
export interface Difference {
  /** Columns by the position of their row; of a row that was not in view, all of them. */
  readonly cells: ReadonlyMap<number, readonly string[]>;
  /** Rows that came before what was in view; fewer than none where some have gone. */
  readonly before: number;
}

/** The key of a row as events name it: a list of texts. */
export function keyOf(row: Row, names: readonly string[]): string {
  return JSON.stringify(names.map((name) => textOf(row[name] ?? null)));
}

/** Values of keys are texts, numbers and booleans. */
function textOf(value: Value): string {
  return typeof value === 'object' ? JSON.stringify(value) : String(value);
}

/** The rows that stand between two places, the last one among them. */
export function snapshotOf(
  source: RowSource | OutlineSource,
  { first, last }: { readonly first: number; readonly last: number },
  key: readonly string[],
): RowSnapshot {
  const visible = new Map<string, { readonly position: number; readonly row: Row }>();
  for (let position = first; position <= last; position += 1) {
    const row = rowAt(source, position);
    if (row !== undefined) visible.set(keyOf(row, key), { position, row });
  }
  return visible;
}

/** What has changed between two looks at the same places. */
export function differenceOf(
  before: RowSnapshot,
  now: RowSnapshot,
  columns: readonly string[],
): Difference {
  const cells = new Map<number, readonly string[]>();
  let moved: number | undefined;
  for (const [key, { position, row }] of now) {
    const old = before.get(key);
    // Of the rows that are there still the topmost shows how far all have moved.
    if (old !== undefined) moved ??= position - old.position;
    const other =
      old === undefined
        ? columns
        : columns.filter((name) => JSON.stringify(old.row[name]) !== JSON.stringify(row[name]));
    if (other.length > 0 && before.size > 0) cells.set(position, other);
  }
  return { cells, before: moved ?? 0 };
}
