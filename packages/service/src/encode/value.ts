import { encodingOf, type ColumnType, type Encoding } from '@ephoros/core/schema';
import { parse as parseArray } from 'postgres-array';

/** Makes the JSON text of one value from PostgreSQL's text of it. */
type ValueEncoder = (text: string) => string;

// What JSON wants escaped (RFC 8259, section 7). Most texts hold none of it.
const special = /["\\\u0000-\u001f]/;
const asString: ValueEncoder = (text) => (special.test(text) ? JSON.stringify(text) : `"${text}"`);
const asIs: ValueEncoder = (text) => text;

/**
 * The encoder for values of a type, for sessions set up as `Database` does. Timestamps become
 * RFC 3339 (in UTC where they have a zone), binary data base64, intervals ISO 8601 durations.
 */
export function valueEncoder(
  type: ColumnType,
  encoding: Encoding = encodingOf(type),
): ValueEncoder {
  switch (type.kind) {
    case 'integer':
      return encoding === 'string' ? (text) => `"${text}"` : asIs;
    case 'float':
      return (text) => (/^-?\d/.test(text) ? text : `"${text}"`);
    case 'numeric':
      return (text) => `"${text}"`;
    case 'boolean':
      return (text) => (text === 't' ? 'true' : 'false');
    case 'timestamp':
      return type.zone ? zonedTimestamp : plainTimestamp;
    case 'time':
      return type.zone
        ? (text) => `"${text.replace(/([+-]\d\d)$/, '$1:00').replace(/\+00:00$/, 'Z')}"`
        : asString;
    case 'json':
      return asIs;
    case 'binary':
      return (text) => `"${Buffer.from(text.slice(2), 'hex').toString('base64')}"`;
    case 'array':
      return arrayEncoder(type.element);
    case 'text':
    case 'date':
    case 'interval':
    case 'uuid':
    case 'enum':
    case 'range':
    case 'opaque':
      return asString;
    default:
      throw new Error(`no encoder for ${JSON.stringify(type satisfies never)}`);
  }
}

// "2024-02-29 10:15:00.5+00" → "2024-02-29T10:15:00.5Z". What RFC 3339 cannot say (infinity,
// years before Christ or past 9999) keeps PostgreSQL's spelling.
function zonedTimestamp(text: string): string {
  return text.charCodeAt(10) === 32 && text.endsWith('+00')
    ? `"${text.slice(0, 10)}T${text.slice(11, -3)}Z"`
    : `"${text}"`;
}

function plainTimestamp(text: string): string {
  return text.charCodeAt(10) === 32 && !text.endsWith('C')
    ? `"${text.slice(0, 10)}T${text.slice(11)}"`
    : `"${text}"`;
}

type Nested = string | null | Nested[];

function arrayEncoder(element: ColumnType): ValueEncoder {
  const encode = valueEncoder(element);
  const encodeNested = (one: Nested): string => {
    if (one === null) return 'null';
    return Array.isArray(one) ? `[${one.map(encodeNested).join(',')}]` : encode(one);
  };
  // PostgreSQL writes bounds that do not begin at 1 in front: [0:1]={…}.
  return (text) => encodeNested(parseArray(text.replace(/^\[[^=]*\]=/, ''), asIs));
}
