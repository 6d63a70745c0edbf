import { sql, type SQL } from './fragment.ts';
import type { ColumnType } from '../schema/index.ts';

/** All values pass here: bound, and cast where the type is the language's own. */
export function valueOf(value: string, type: ColumnType): SQL {
  const cast = castOf(type);
  return cast === undefined ? sql`${value}` : sql`${value}::${cast}`;
}

/** Values bound as one list. */
export function listOf(values: readonly string[], type: ColumnType): SQL {
  const cast = castOf(type);
  const list = sql`${sql.param(values)}`;
  return cast === undefined ? list : sql`${list}::${cast}[]`;
}

/**
 * The SQL type a value is cast to; undefined where the value takes the type of the column that
 * it is compared with (enums, whose type has the database's own name).
 */
export function castOf(type: ColumnType): SQL | undefined {
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
    case 'enum':
    case 'json':
    case 'binary':
    case 'range':
    case 'array':
    case 'opaque':
      return undefined;
    default:
      throw new Error(`no cast for ${JSON.stringify(type satisfies never)}`);
  }
}
