import { sql, type SQL } from './fragment.ts';
import type { FunctionName } from '../check/index.ts';

// Letter case as Unicode has it, whatever the collation of the column or the database.
const unicode = sql`collate "und-x-icu"`;

/** A function of the filter language in SQL. */
export function compute(name: FunctionName, args: readonly SQL[]): SQL {
  const [a = sql`null`, b = sql`0`] = args;
  switch (name) {
    case 'casei':
    case 'lower':
      return sql`lower(${a} ${unicode})`;
    case 'upper':
      return sql`upper(${a} ${unicode})`;
    case 'accenti':
      return sql`regexp_replace(normalize(${a}, NFD), ${'[\u0300-\u036f]'}, '', 'g')`;
    case 'length':
      return sql`char_length(${a})`;
    case 'starts':
      return sql`starts_with(${a}, ${b})`;
    case 'ends':
      return sql`(right(${a}, char_length(${b})) = ${b})`;
    case 'contains':
      return sql`(position(${b} in ${a}) > 0)`;
    case 'abs':
      return sql`abs(${a})`;
    case 'round':
      return sql`round(${a}::numeric, ${b}::int4)`;
    case 'year':
      return part(sql`year`, a);
    case 'quarter':
      return part(sql`quarter`, a);
    case 'month':
      return part(sql`month`, a);
    case 'week':
      return part(sql`week`, a);
    case 'day':
      return part(sql`day`, a);
    case 'weekday':
      return part(sql`isodow`, a);
    case 'hour':
      return part(sql`hour`, a);
    case 'a_equals':
      return sql`(${a} = ${b})`;
    case 'a_contains':
      return sql`(${a} @> ${b})`;
    case 'a_containedby':
      return sql`(${a} <@ ${b})`;
    case 'a_overlaps':
      return sql`(${a} && ${b})`;
    default:
      throw new Error(`no SQL for ${JSON.stringify(name satisfies never)}`);
  }
}

/** In UTC, the time zone of the service's sessions. */
function part(field: SQL, moment: SQL): SQL {
  return sql`extract(${field} from ${moment}::timestamp)::int4`;
}
