import { hexOf, parseBase64url, printBase64url } from './base64url.ts';

/**
 * "Just after" or "just before" a row: the sort it belongs to and the row's sort values, in
 * PostgreSQL's notation. Opaque to clients, but no secret.
 */
export interface Cursor {
  /** The terms as `-passed_at,id` and where nulls stand, as `sortSignature` writes them. */
  readonly sort: string;
  readonly values: readonly (string | null)[];
  /** Whether the values are those of the key alone, since the others are long. */
  readonly byKey?: true;
}

/** A cursor as a token of letters, digits, `-` and `_` (RFC 4648, base64url without padding). */
export function printCursor({ sort, values, byKey }: Cursor): string {
  const text = JSON.stringify([sort, ...values]);
  const bytes = utf8(byKey === true ? JSON.stringify([sort, values]) : text);
  return printBase64url(bytes);
}

/** Reads a token; undefined for what is none. */
export function parseCursor(token: string): Cursor | undefined {
  const bytes = parseBase64url(token);
  if (bytes === undefined) return undefined;
  try {
    const escaped = bytes.map((byte) => `%${hexOf(byte)}`).join('');
    const read: unknown = JSON.parse(decodeURIComponent(escaped));
    if (!Array.isArray(read)) return undefined;
    const [sort, ...rest] = read as unknown[];
    const [key] = rest;
    const byKey = rest.length === 1 && Array.isArray(key);
    const values = byKey ? (key as unknown[]) : rest;
    const sound = values.filter((value) => value === null || typeof value === 'string');
    return typeof sort === 'string' && sound.length === values.length
      ? { sort, values: sound, ...(byKey ? { byKey } : {}) }
      : undefined;
  } catch {
    return undefined;
  }
}

function utf8(text: string): number[] {
  const units = Array.from(text, (_, index) => text.charCodeAt(index));
  if (units.length === text.length && units.every((unit) => unit < 128)) return units;
  // The one way to bytes that browsers, Node and the language itself share.
  const escaped = encodeURIComponent(text);
  return [...escaped.matchAll(/%([0-9A-F]{2})|[^%]/g)].map(([character, hex]) =>
    hex === undefined ? character.charCodeAt(0) : parseInt(hex, 16),
  );
}
