import type { CheckedLevel } from '../check/index.ts';
import { blankPadded } from '../schema/index.ts';
import { valueOf } from './cast.ts';
import { scalar } from './condition.ts';
import { sql, type SQL } from './fragment.ts';
import type { Scope } from './scope.ts';

/**
 * What rows are grouped by at a level: equal is what the column's own type says is equal, so that a
 * line's filter selects its rows. Blank-padded texts are shown without their blanks.
 */
export function levelKey({ scalar: of, type }: CheckedLevel, scope: Scope): SQL {
  const key = scalar(of, scope);
  return type.databaseType === blankPadded ? sql`${key}::text` : key;
}

/** Whether a row lies in a group of a level; `value` in PostgreSQL's notation. */
export function levelTest(level: CheckedLevel, value: string | null, scope: Scope): SQL {
  const key = scalar(level.scalar, scope);
  return value === null ? sql`${key} is null` : sql`${key} = ${valueOf(value, level.type)}`;
}
