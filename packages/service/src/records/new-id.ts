import { randomBytes } from 'node:crypto';

/**
 * A random id in base64url, of so many bytes. It begins with a letter or a digit: on a command line an argument that begins
 * with a hyphen is an option.
 */
export function newId(bytes = 16): string {
  for (;;) {
    const id = randomBytes(bytes).toString('base64url');
    if (/^[A-Za-z0-9]/.test(id)) return id;
  }
}
