import type { ColumnType } from '@ephoros/core/schema';
import { z } from 'zod';

/** A type as the database's catalog reports it. */
export const typeRow = z.object({
  id: z.number(),
  name: z.string(),
  /** Its schema and name, quoted where that is needed. */
  written: z.string(),
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
  float4: { kind: 'float', bits: 32 },
  float8: { kind: 'float', bits: 64 },
  text: { kind: 'text' },
  name: { kind: 'text' },
  bool: { kind: 'boolean' },
  date: { kind: 'date' },
  time: { kind: 'time', zone: false },
  timetz: { kind: 'time', zone: true },
  timestamp: { kind: 'timestamp', zone: false },
  timestamptz: { kind: 'timestamp', zone: true },
  interval: { kind: 'interval' },
  uuid: { kind: 'uuid' },
  jsonb: { kind: 'json' },
  bytea: { kind: 'binary' },
};

// Type modifiers hold a header of four bytes before what they say.
const header = 4;

/** Lists of these cannot be compared with lists of the kind's usual type. */
const narrow = new Set(['varchar', 'name']);

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
  const { kind, name, written: databaseType } = row;
  if (kind === 'd') {
    const base = columnType(row.base, row.baseModifier >= 0 ? row.baseModifier : modifier, types);
    return { ...base, domain: true };
  }
  if (kind === 'e') return { kind: 'enum', name, values: row.values ?? [], databaseType };
  if (kind === 'r' || kind === 'm') return { kind: 'range', name, databaseType };
  if (kind === 'c') return { kind: 'opaque', name, databaseType };
  if (row.element !== 0) return listOf(row.element, modifier, types, databaseType);
  if (name === 'numeric') return numeric(modifier);
  if (name === 'varchar' || name === 'bpchar') {
    const text: ColumnType =
      modifier < header ? { kind: 'text' } : { kind: 'text', maxLength: modifier - header };
    return name === 'bpchar' ? { ...text, databaseType } : text;
  }
  if (name === 'citext') return { kind: 'text', databaseType };
  if (name === 'oid') return { kind: 'integer', bits: 64, databaseType };
  if (name === 'json') return { kind: 'json', databaseType };
  return plain[name] ?? { kind: 'opaque', name, databaseType };
}

function listOf(
  id: number,
  modifier: number,
  types: ReadonlyMap<number, TypeRow>,
  databaseType: string,
): ColumnType {
  const element = columnType(id, modifier, types);
  // Elements that are written in braces themselves cannot be distinguished from nested lists.
  if (element.kind === 'opaque') return { kind: 'opaque', name: `${element.name}[]`, databaseType };
  const base = baseOf(id, types);
  const own =
    element.databaseType !== undefined || (base !== undefined && narrow.has(base.name))
      ? { databaseType: `${base?.written ?? databaseType}[]` }
      : {};
  return { kind: 'array', element, ...own, ...(element.domain ? { domain: true } : {}) };
}

/** What a domain stands on in the end; any other type itself. */
export function baseOf(id: number, types: ReadonlyMap<number, TypeRow>): TypeRow | undefined {
  const row = types.get(id);
  return row?.kind === 'd' ? baseOf(row.base, types) : row;
}

function numeric(modifier: number): ColumnType {
  if (modifier < header) return { kind: 'numeric' };
  const packed = modifier - header;
  // Eleven bits of scale, signed since PostgreSQL 15.
  const scale = ((packed & 0x7ff) ^ 1024) - 1024;
  return { kind: 'numeric', precision: (packed >> 16) & 0xffff, scale };
}
