import { hexOf, parseBase64url } from '../query/index.ts';
import { arrayItem, type ColumnType } from '../schema/index.ts';
import { hasNotation, isWrittenAs } from './notation.ts';

/**
 * A value as an answer shows it, in PostgreSQL's notation.
 * Texts are taken as they are, lists and JSON as JSON text. Undefined for what no value of the type
 * looks like; what still is none the database refuses.
 */
export function keyValue(text: string, type: ColumnType): string | undefined {
  if (text.includes('\0')) return undefined;
  switch (type.kind) {
    case 'boolean':
      return text === 'true' || text === 'false' ? text : undefined;
    case 'binary':
      return /^[A-Za-z0-9+/]*={0,2}$/.test(text) ? hex(text) : undefined;
    case 'array':
      return listText(text, type.element);
    case 'timestamp': {
      const written = text.replace(/^(\d{4,}-\d\d-\d\d)T/, '$1 ').replace(/Z$/, '+00');
      return isWrittenAs(written, type) ? written : undefined;
    }
    case 'uuid':
      return isWrittenAs(text.toLowerCase(), type) ? text.toLowerCase() : undefined;
    default:
      return !hasNotation(type) || isWrittenAs(text, type) ? text : undefined;
  }
}

/** Base64 (RFC 4648) → "\\x00ff"; undefined where it is none. */
function hex(base64: string): string | undefined {
  const token = base64.replace(/=+$/, '').replaceAll('+', '-').replaceAll('/', '_');
  const bytes = parseBase64url(token);
  return bytes && `\\x${bytes.map(hexOf).join('')}`;
}

function listText(text: string, element: ColumnType): string | undefined {
  let list: unknown;
  try {
    list = JSON.parse(text);
  } catch {
    return undefined;
  }
  return Array.isArray(list) ? written(list, element) : undefined;
}

/** A list as PostgreSQL writes it: {"a",NULL}; undefined where an item is no value. */
function written(list: readonly unknown[], element: ColumnType): string | undefined {
  const items = list.map((item) => {
    if (item === null) return arrayItem(null);
    if (Array.isArray(item)) return written(item, element);
    const value = keyValue(typeof item === 'string' ? item : JSON.stringify(item), element);
    return value === undefined ? undefined : arrayItem(value);
  });
  return items.includes(undefined) ? undefined : `{${items.join(',')}}`;
}
