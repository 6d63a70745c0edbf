import { sql, type SQL } from './fragment.ts';
import type { FunctionName } from '../check/index.ts';

// Letter case as Unicode has it, whatever the collation of the column or the database.
const unicode = sql`collate "und-x-icu"`;

/** A function of the filter language in SQL; `bin` is composed apart. */
export function compute(name: Exclude<FunctionName, 'bin'>, args: readonly SQL[]): SQL {
  const [a = sql`null`, b = sql`0`] = args;
  // The second argument of a part of time.
  const [, zone] = args;
  switch (name) {
    case 'casei':
      return folded(a);
    case 'lower':
      return sql`lower(${a} ${unicode})`;
    case 'upper':
      return sql`upper(${a} ${unicode})`;
    case 'accenti':
      return sql`regexp_replace(normalize(${a}, NFD), ${'[\u0300-\u036f]'}, '', 'g')`;
    case 'initial':
      return sql`upper(left(${a}, 1) ${unicode})`;
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
      return part(sql`year`, a, zone);
    case 'quarter':
      return part(sql`quarter`, a, zone);
    case 'month':
      return part(sql`month`, a, zone);
    case 'week':
      return part(sql`week`, a, zone);
    case 'day':
      return part(sql`day`, a, zone);
    case 'weekday':
      return part(sql`isodow`, a, zone);
    case 'hour':
      return part(sql`hour`, a, zone);
    case 'a_equals':
      return sql`(${a} @> ${b} and ${a} <@ ${b})`;
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

/**
 * Case folding (Unicode, chapter 3.13) out of the two mappings that PostgreSQL has: capitals first,
 * so that "ß" becomes "ss" and ligatures their letters, then small letters. The small sigma has one
 * form; the dotless i is a letter of its own.
 */
function folded(text: SQL): SQL {
  const remaining = sql`replace(lower(${text} ${unicode}), 'ı', chr(57344))`;
  const small = sql`lower(upper(${remaining} ${unicode}) ${unicode})`;
  return sql`replace(replace(${small}, 'ς', 'σ'), chr(57344), 'ı')`;
}

/** In UTC, the time zone of the service's sessions, unless another is named. */
function part(field: SQL, moment: SQL, zone: SQL | undefined): SQL {
  // Of infinity PostgreSQL has a part that is no whole number.
  const found = sql`extract(${field} from ${local(moment, zone)})`;
  return sql`nullif(nullif(${found}, 'infinity'), '-infinity')::int4`;
}

function local(moment: SQL, zone: SQL | undefined): SQL {
  return zone === undefined ? sql`${moment}::timestamp` : sql`timezone(${zone}, ${moment})`;
}
