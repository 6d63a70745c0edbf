import type { CheckedWindow } from '../check/index.ts';
import { sql, type SQL } from './fragment.ts';

/**
 * The end of a statement that gives so many rows. The number stands in the text: so the planner
 * knows it before the first value is bound, and plans once for all values where that is as good. It
 * is one that this program has checked, and there are few of them. Offsets, of which there are
 * many, are bound.
 */
export function limited(limit: number, offset = 0): SQL {
  const bounded = sql` limit ${sql.raw(String(Math.trunc(limit)))}`;
  return offset === 0 ? bounded : sql`${bounded} offset ${offset}`;
}

/** The rows up to the end of a window, and one more. */
export function reachOf({ limit, offset }: Pick<CheckedWindow, 'limit' | 'offset'>): SQL {
  return offset === 0 ? limited(limit + 1) : sql` limit ${offset + limit + 1}`;
}
