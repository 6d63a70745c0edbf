import type { CheckedLevel } from '../check/index.ts';
import { valueOf } from './cast.ts';
import { scalar } from './condition.ts';
import { sql, type SQL } from './fragment.ts';
import type { Scope } from './scope.ts';

/**
 * What rows are grouped by at a level. Texts of all kinds are compared as filters compare them, so
 * that a line's filter selects its rows: blank-padded ones without their blanks.
 */
export function levelKey({ scalar: of, type }: CheckedLevel, scope: Scope): SQL {
  const key = scalar(of, scope);
  return type.kind === 'text' ? sql`${key}::text` : key;
}

/** Whether a row lies in a group of a level; `value` in PostgreSQL's notation. */
export function levelTest(level: CheckedLevel, value: string | null, scope: Scope): SQL {
  const key = scalar(level.scalar, scope);
  return value === null ? sql`${key} is null` : sql`${key} = ${valueOf(value, level.type)}`;
}
