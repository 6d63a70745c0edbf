import { randomBytes, randomUUID } from 'node:crypto';
import type { ColumnDescription } from '@ephoros/core/schema';

/**
 * Values that no other row is likely to have, in PostgreSQL's notation, for a column whose value
 * stands in the way of another row for a moment: null first, where the column may be null.
 */
export function valuesBetween({
  nullable,
  type,
}: Pick<ColumnDescription, 'nullable' | 'type'>): readonly (string | null)[] {
  const own = ownValues(type);
  return nullable ? [null, ...own] : own;
}

function ownValues(type: ColumnDescription['type']): readonly string[] {
  switch (type.kind) {
    case 'text': {
      const letters = randomBytes(24).toString('base64url');
      return [letters.slice(0, Math.min(type.maxLength ?? 24, 24))];
    }
    case 'integer': {
      const most = 2 ** Math.min(type.bits - 1, 47);
      const number = Math.floor(Math.random() * most);
      return [String(-number - 1), String(number)];
    }
    case 'numeric': {
      const { precision = 12, scale = 0 } = type;
      const digits = Math.max(1, Math.min(precision - Math.max(scale, 0), 12));
      const number = Math.floor(Math.random() * 10 ** digits);
      return [String(-number), String(number)];
    }
    case 'float':
      return [String(-Math.random() * 1e9), String(Math.random() * 1e9)];
    case 'uuid':
      return [randomUUID()];
    case 'date':
      return [dayBetween()];
    case 'timestamp':
      return [`${dayBetween()} 00:00:00${type.zone ? '+00' : ''}`];
    case 'range':
      return ['empty'];
    case 'binary':
      return [`\\x${randomBytes(16).toString('hex')}`];
    case 'enum':
      return type.values;
    case 'boolean':
      return ['t', 'f'];
    case 'time':
    case 'interval':
    case 'json':
    case 'array':
    case 'opaque':
      return [];
    default:
      throw new Error(`no value between for ${JSON.stringify(type satisfies never)}`);
  }
}

/** A day of a year that few rows speak of. */
function dayBetween(): string {
  const day = Math.floor(Math.random() * 365_000);
  return new Date(Date.UTC(3_000, 0, 1) + day * 86_400_000).toISOString().slice(0, 10);
}
