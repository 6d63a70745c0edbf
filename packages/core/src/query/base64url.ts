const alphabet = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_';

/** Bytes as letters, digits, `-` and `_` (RFC 4648, base64url without padding). */
export function printBase64url(bytes: readonly number[]): string {
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

/** The bytes of a token; undefined for what is none. */
export function parseBase64url(token: string): readonly number[] | undefined {
  const bytes: number[] = [];
  for (let at = 0; at < token.length; at += 4) {
    const digits = [...token.slice(at, at + 4)].map((digit) => alphabet.indexOf(digit));
    if (digits.includes(-1) || digits.length === 1) return undefined;
    const [a = 0, b = 0, c = 0, d = 0] = digits;
    const group = (a << 18) | (b << 12) | (c << 6) | d;
    bytes.push(...[group >> 16, (group >> 8) & 255, group & 255].slice(0, digits.length - 1));
  }
  return bytes;
}

/** A byte as two digits. */
export function hexOf(byte: number): string {
  return byte.toString(16).padStart(2, '0');
}
