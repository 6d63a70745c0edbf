/** What is stated about a caller next to the name, as it came: texts, numbers, booleans, lists, objects. */
export type Claims = Readonly<Record<string, unknown>>;

/** Who asks. */
export interface Principal {
  /** Distinguishes callers in the history, for views and for selections. */
  readonly name: string;
  /** What people read; the name where there is nothing better. */
  readonly title: string;
  readonly roles: readonly string[];
  readonly claims: Claims;
  /** How they came: a browser sends cookies and what a proxy adds by itself, also for pages of others. */
  readonly by: 'token' | 'jwt' | 'proxy' | 'session';
  /** Until when; undefined where that is not stated. */
  readonly expiresAt?: Date | undefined;
  /** Of a session, to end it. */
  readonly session?: string;
  /** The id of a token that the service has given out. */
  readonly token?: string;
}

/**
 * A claim by its name; else by the names that lead to it, with dots between them: "access.roles". Undefined where
 * there is none.
 */
export function claimAt(claims: Claims, name: string): unknown {
  if (Object.hasOwn(claims, name)) return claims[name];
  let found: unknown = claims;
  for (const part of name.split('.')) {
    if (typeof found !== 'object' || found === null || !Object.hasOwn(found, part)) {
      return undefined;
    }
    found = (found as Claims)[part];
  }
  return found;
}

/** A claim that is a text, or a number as one; undefined for all else, and for the empty text. */
export function textAt(claims: Claims, name: string): string | undefined {
  const value = claimAt(claims, name);
  const text = typeof value === 'number' ? String(value) : value;
  return typeof text === 'string' && text !== '' ? text : undefined;
}

/** Names in a claim: of a list of texts, or of one text with commas or spaces between them. */
export function namesAt(claims: Claims, name: string): readonly string[] {
  const value = claimAt(claims, name);
  const names: readonly unknown[] =
    typeof value === 'string' ? value.split(/[\s,]+/) : Array.isArray(value) ? value : [];
  return names.filter((one): one is string => typeof one === 'string' && one !== '');
}
