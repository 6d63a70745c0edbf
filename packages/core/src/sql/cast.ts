import { sql, type SQL } from './fragment.ts';
import { arrayText, type ColumnType } from '../schema/index.ts';

/** All values pass here: bound, or a text that is there; cast where the type is the language's own. */
export function valueOf(value: string | SQL, type: ColumnType): SQL {
  const cast = castOf(type);
  return cast === undefined ? sql`${value}` : sql`${value}::${cast}`;
}

/** Values bound as one list. */
export function listOf(values: readonly string[], element: ColumnType): SQL {
  const cast = castOf(element);
  const list = sql`${sql.param(values)}`;
  return cast === undefined ? list : sql`${list}::${cast}[]`;
}

/** Many values bound as one text, which PostgreSQL reads as a list: put together once, sent as it is. */
export function longListOf(values: readonly string[], element: ColumnType): SQL {
  const cast = castOf(element) ?? sql`text`;
  return sql`${sql.param(arrayText(values))}::${cast}[]`;
}

/**
 * A column as conditions compute with it: of a domain its base type, since operators such as those
 * of enums know no domains; of an object identifier the number.
 */
export function columnValue(column: SQL, type: ColumnType): SQL {
  if (type.kind === 'integer' && type.databaseType !== undefined) return sql`${column}::int8`;
  return comparable(column, type);
}

/** A column as it is compared with values of its own. */
export function comparable(column: SQL, type: ColumnType): SQL {
  const cast = type.domain === true ? castOf(type) : undefined;
  return cast === undefined ? column : sql`${column}::${cast}`;
}

/**
 * A text as functions read it: with letter case, without the blanks that fill up a char(n), and in
 * a collation that can be searched.
 */
export function plainText(value: SQL, type: ColumnType): SQL {
  if (type.kind !== 'text') return value;
  if (type.nondeterministic === true) return sql`(${value} collate "und-x-icu")`;
  return type.databaseType === undefined ? value : sql`${value}::text`;
}

/** The SQL type that a value is cast to: the database's own, or the usual one of the kind. */
export function castOf(type: ColumnType): SQL | undefined {
  // The database's catalog has written it, every part of it quoted.
  if (type.databaseType !== undefined) return sql.raw(type.databaseType);
  switch (type.kind) {
    case 'integer':
      return { 16: sql`int2`, 32: sql`int4`, 64: sql`int8` }[type.bits];
    case 'numeric':
      return sql`numeric`;
    case 'float':
      return type.bits === 32 ? sql`float4` : sql`float8`;
    case 'text':
      return sql`text`;
    case 'boolean':
      return sql`boolean`;
    case 'date':
      return sql`date`;
    case 'time':
      return type.zone ? sql`timetz` : sql`time`;
    case 'timestamp':
      return type.zone ? sql`timestamptz` : sql`timestamp`;
    case 'interval':
      return sql`interval`;
    case 'uuid':
      return sql`uuid`;
    case 'json':
      return sql`jsonb`;
    case 'binary':
      return sql`bytea`;
    case 'array': {
      const element = castOf(type.element);
      return element && sql`${element}[]`;
    }
    case 'enum':
    case 'range':
    case 'opaque':
      return undefined;
    default:
      throw new Error(`no cast for ${JSON.stringify(type satisfies never)}`);
  }
}
