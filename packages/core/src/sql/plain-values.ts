import type { CheckedGrouping } from '../check/index.ts';
import { valueOf } from './cast.ts';
import { sql, type SQL } from './fragment.ts';
import { anchorValues } from './keyset.ts';
import { termsAlong } from './keyset-order.ts';
import { levelKey } from './level.ts';
import { Scope, type Relations } from './scope.ts';

/**
 * The values of a level alone, as `k`, as many as its window needs, and the lack of one: found from one to the next
 * along an index, so that the rows between them are not read.
 */
export function plainValues(grouping: CheckedGrouping, relations: Relations): SQL {
  const [level] = grouping.levels;
  const [term] = termsAlong(grouping);
  if (level === undefined || term === undefined) throw new Error('values are of one column');
  const { limit, offset } = grouping;
  const [from = null] = anchorValues(grouping) ?? [];
  const direction = sql.raw(term.descending ? 'desc' : 'asc');
  const beyond = sql.raw(term.descending ? '<' : '>');
  /** The nearest value behind another one, or the first. */
  const nearest = (than?: SQL): SQL => {
    const scope = new Scope(grouping.table.name, relations);
    const key = levelKey(level, scope);
    const behind = than === undefined ? sql`` : sql` and ${key} ${beyond} ${than}`;
    return sql`(select ${key}${scope.from()} where ${key} is not null${behind} order by ${key} ${direction} limit 1)`;
  };
  const scope = new Scope(grouping.table.name, relations);
  const missing = sql`select null where exists (select${scope.from()} where ${levelKey(level, scope)} is null)`;
  const first = nearest(from === null ? undefined : valueOf(from, level.type));
  const walked = sql`select ${first} as k union all select ${nearest(sql`v.k`)} from v where v.k is not null`;
  return sql`with recursive v as (${walked}) (select k from v where k is not null limit ${offset + limit + 1}) union all ${missing}`;
}

/** Whether an index leads from one value of all rows to the next, in the order that is wanted. */
export function isWalked({ levels, filter, search, sort, containing }: CheckedGrouping): boolean {
  const scalar = levels[0]?.scalar;
  const column = scalar?.kind === 'column' ? scalar.column : undefined;
  const isLed = column?.indexed === true && column.path.length === 0;
  const whole = (filter ?? search ?? containing) === undefined;
  return isLed && whole && sort.every((term) => term.column.own === 'value');
}
