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

const alphabet = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_';

/** A cursor as a token of letters, digits, `-` and `_` (RFC 4648, base64url without padding). */
export function printCursor({ sort, values, byKey }: Cursor): string {
  const text = JSON.stringify([sort, ...values]);
  const bytes = utf8(byKey === true ? JSON.stringify([sort, values]) : text);
  let token = '';
  for (let at = 0; at < bytes.length; at += 3) {
    const group = ((bytes[at] ?? 0) << 16) | ((bytes[at + 1] ?? 0) << 8) | (bytes[at + 2] ?? 0);
    const length = Math.min(3, bytes.length - at) + 1;
    for (let digit = 0; digit < length; digit += 1) {
      token += alphabet.charAt((group >> (18 - 6 * digit)) & 63);
    }
  }
  return token;
}

/** Reads a token; undefined for what is none. */
export function parseCursor(token: string): Cursor | undefined {
  const bytes: number[] = [];
  for (let at = 0; at < token.length; at += 4) {
    const digits = [...token.slice(at, at + 4)].map((digit) => alphabet.indexOf(digit));
    if (digits.includes(-1) || digits.length === 1) return undefined;
    const [a = 0, b = 0, c = 0, d = 0] = digits;
    const group = (a << 18) | (b << 12) | (c << 6) | d;
    bytes.push(...[group >> 16, (group >> 8) & 255, group & 255].slice(0, digits.length - 1));
  }
  try {
    const escaped = bytes.map((byte) => `%${byte.toString(16).padStart(2, '0')}`).join('');
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
