import type { IncomingMessage } from 'node:http';
import { WaitBudget } from '../run/index.ts';

/** What a request prefers of the way in which it is answered (RFC 7240). */
export interface Preferences {
  /** `respond-async` (4.1): a query that outlasts the wait is answered by 202. */
  readonly respondAsync: boolean;
  /** `wait` (4.3), in ms. The standard has whole seconds; fractions are read as well. */
  readonly wait: number | undefined;
}

/** Seconds of a wait at most: a day. */
const longest = 86_400;

/** Reads the `Prefer` header. Unknown and malformed preferences are ignored (RFC 7240, 2); of equal names the first counts. */
export function preferencesOf({ headers }: Pick<IncomingMessage, 'headers'>): Preferences {
  const given = headers.prefer;
  if (given === undefined) return { respondAsync: false, wait: undefined };
  const preferences = new Map<string, string>();
  for (const part of [given].flat().join(',').split(',')) {
    // Parameters of a preference follow behind semicolons; none are defined for these.
    const [preference = ''] = part.split(';');
    const [name = '', value = ''] = preference.split('=').map((one) => one.trim());
    const key = name.toLowerCase();
    if (!preferences.has(key)) preferences.set(key, value.replace(/^"(.*)"$/, '$1'));
  }
  return { respondAsync: preferences.has('respond-async'), wait: waitOf(preferences.get('wait')) };
}

function waitOf(value: string | undefined): number | undefined {
  if (value === undefined || !/^\d+(\.\d+)?$/.test(value)) return undefined;
  return Math.min(Number(value), longest) * 1_000;
}

/** The `Preference-Applied` header of an answer by 202 (RFC 7240, 3). */
export function appliedText({ wait }: Preferences): string {
  return wait === undefined ? 'respond-async' : `respond-async, wait=${wait / 1_000}`;
}

/** What an engine has of waiting. */
interface Waits {
  readonly deferAfter: number;
  readonly longestWait: number;
}

/**
 * How long a caller waits by its preferences: without one, as long as the service works on an answer. Callers that
 * come back (`respond-async`) are answered after the usual time, unless they set another.
 */
export function budgetOf(
  { respondAsync, wait }: Preferences,
  { deferAfter, longestWait }: Waits,
): WaitBudget {
  if (respondAsync) return new WaitBudget(wait ?? deferAfter, 'return');
  return new WaitBudget(Math.min(wait ?? longestWait, longestWait), 'fail');
}

/** The same where no answer is deferred: a caller who prefers `respond-async` waits, too (RFC 7240, 2). */
export function blockingBudgetOf(
  request: Pick<IncomingMessage, 'headers'>,
  waits: Waits,
): WaitBudget {
  return budgetOf({ respondAsync: false, wait: preferencesOf(request).wait }, waits);
}
