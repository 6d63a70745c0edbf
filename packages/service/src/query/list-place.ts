import { inParameter, problem } from '@ephoros/core/problem';
import { Refused } from './refused.ts';

/** A place in a list of records, as a token that a client sends back. */
export function printListPlace(place: readonly (string | number)[]): string {
  return Buffer.from(JSON.stringify(place)).toString('base64url');
}

/** What a token says; `read` makes the place of it, where it is one. @throws Refused */
export function readListPlace<Place>(
  token: string,
  read: (parts: readonly unknown[]) => Place | undefined,
): Place {
  let place: Place | undefined;
  try {
    const parts: unknown = JSON.parse(Buffer.from(token, 'base64url').toString());
    place = Array.isArray(parts) ? read(parts) : undefined;
  } catch {
    // Then it is none.
  }
  if (place !== undefined) return place;
  throw new Refused(inParameter('after', [problem('malformed-cursor', {})]));
}
