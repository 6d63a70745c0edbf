import type { CheckedScalar } from '../check/index.ts';
import { sql, type SQL } from './fragment.ts';

type Call = Extract<CheckedScalar, { kind: 'function' }>;

const fields: Readonly<Record<string, SQL>> = {
  P1Y: sql`'year'`,
  P3M: sql`'quarter'`,
  P1M: sql`'month'`,
  P1W: sql`'week'`,
  P1D: sql`'day'`,
  PT1H: sql`'hour'`,
};

/** Where the bin begins that holds a value: a multiple of a width, or of a unit of time. */
export function bin({ args, type }: Call, [value, width, zone]: readonly SQL[]): SQL {
  const [, by] = args;
  if (value === undefined || width === undefined || by?.kind !== 'value') {
    throw new Error('a bin has a value and a width');
  }
  if (by.type.kind === 'numeric') {
    // Without a division, which would round.
    const a = sql`${value}::numeric`;
    return sql`trim_scale(${a} - mod(mod(${a}, ${width}) + ${width}, ${width}))`;
  }
  const field = fields[by.value];
  if (field === undefined) throw new Error('unknown unit of time');
  if (type.kind === 'timestamp' && type.zone) return sql`date_trunc(${field}, ${value})`;
  const local = zone === undefined ? sql`${value}::timestamp` : sql`timezone(${zone}, ${value})`;
  const truncated = sql`date_trunc(${field}, ${local})`;
  return type.kind === 'date' ? sql`${truncated}::date` : truncated;
}
