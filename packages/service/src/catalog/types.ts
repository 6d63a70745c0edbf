import type { ColumnType } from '@ephoros/core/schema';
import { z } from 'zod';

/** A type as the database's catalog tells it. */
export const typeRow = z.object({
  id: z.number(),
  schema: z.string(),
  name: z.string(),
  kind: z.string(),
  base: z.number(),
  baseModifier: z.number(),
  notNull: z.boolean(),
  element: z.number(),
  values: z.array(z.string()).nullable(),
});

export type TypeRow = z.infer<typeof typeRow>;

const plain: Readonly<Record<string, ColumnType>> = {
  int2: { kind: 'integer', bits: 16 },
  int4: { kind: 'integer', bits: 32 },
  int8: { kind: 'integer', bits: 64 },
  oid: { kind: 'integer', bits: 64 },
  float4: { kind: 'float', bits: 32 },
  float8: { kind: 'float', bits: 64 },
  text: { kind: 'text' },
  name: { kind: 'text' },
  citext: { kind: 'text' },
  bool: { kind: 'boolean' },
  date: { kind: 'date' },
  time: { kind: 'time', zone: false },
  timetz: { kind: 'time', zone: true },
  timestamp: { kind: 'timestamp', zone: false },
  timestamptz: { kind: 'timestamp', zone: true },
  interval: { kind: 'interval' },
  uuid: { kind: 'uuid' },
  json: { kind: 'json' },
  jsonb: { kind: 'json' },
  bytea: { kind: 'binary' },
};

// Type modifiers hold a header of four bytes before what they say.
const header = 4;

/**
 * The column type of a PostgreSQL type: a domain is what it stands on, an array a list of its
 * elements; what is not known is opaque.
 */
export function columnType(
  id: number,
  modifier: number,
  types: ReadonlyMap<number, TypeRow>,
): ColumnType {
  const row = types.get(id);
  if (row === undefined) return { kind: 'opaque', name: 'unknown' };
  if (row.kind === 'd') {
    return columnType(row.base, row.baseModifier >= 0 ? row.baseModifier : modifier, types);
  }
  if (row.kind === 'e') return { kind: 'enum', name: row.name, values: row.values ?? [] };
  if (row.kind === 'r' || row.kind === 'm') return { kind: 'range', name: row.name };
  if (row.element !== 0) {
    const element = columnType(row.element, modifier, types);
    // Elements that are written in braces themselves cannot be told apart from nested lists.
    return element.kind === 'opaque'
      ? { kind: 'opaque', name: `${element.name}[]` }
      : { kind: 'array', element };
  }
  if (row.name === 'numeric') return numeric(modifier);
  if (row.name === 'varchar' || row.name === 'bpchar') {
    return modifier < header ? { kind: 'text' } : { kind: 'text', maxLength: modifier - header };
  }
  return plain[row.name] ?? { kind: 'opaque', name: row.name };
}

function numeric(modifier: number): ColumnType {
  if (modifier < header) return { kind: 'numeric' };
  const packed = modifier - header;
  // Eleven bits of scale, signed since PostgreSQL 15.
  const scale = ((packed & 0x7ff) ^ 1024) - 1024;
  return { kind: 'numeric', precision: (packed >> 16) & 0xffff, scale };
}
