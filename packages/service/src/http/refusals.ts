import type { Progress } from '@ephoros/core/answer';
import type { Problem } from '@ephoros/core/problem';

/** The answer to a request that failed. */
export interface Outcome {
  readonly slug: string;
  readonly status: number;
  readonly title: string;
  readonly detail: string;
  readonly retryAfter?: number;
  /** The `WWW-Authenticate` challenge (RFC 9110, 11.6.1). */
  readonly challenge?: string;
  readonly errors?: readonly Problem[];
  readonly progress?: Progress;
}

/** An outcome that is no failure of a statement. */
export class HttpRefusal extends Error {
  readonly outcome: Outcome;

  constructor(outcome: Outcome) {
    super(outcome.detail);
    this.name = 'HttpRefusal';
    this.outcome = outcome;
  }
}

export function notFound(path: string): HttpRefusal {
  return new HttpRefusal({
    slug: 'not-found',
    status: 404,
    title: 'Not found',
    detail: `Unknown path ${path}. openapi.json lists all paths.`,
  });
}

/** The request has no credentials. */
export function unauthorized(): HttpRefusal {
  return new HttpRefusal({
    slug: 'unauthorized',
    status: 401,
    title: 'Not signed in',
    detail: 'This request needs a signed-in caller. Sign in, then try again.',
    challenge: 'Bearer realm="ephoros"',
  });
}

/** What a caller may not do, whatever rows it may see. `what` ends the sentence "You may not …". */
export function notAllowed(what: string): HttpRefusal {
  return new HttpRefusal({
    slug: 'not-allowed',
    status: 403,
    title: 'Not allowed',
    detail: `You may not ${what}. Ask the operator of the service for a role that may.`,
  });
}

/** A caller has used up a rate limit. */
export function tooMuch(retryAfter: number): HttpRefusal {
  return new HttpRefusal({
    slug: 'rate-limited',
    status: 429,
    title: 'Rate limit exceeded',
    detail: `You have used up a rate limit; the header RateLimit names it. Try again in ${retryAfter} s.`,
    retryAfter,
  });
}

/** A page of another origin may have sent this (CSRF). */
export function foreignPage(): HttpRefusal {
  return new HttpRefusal({
    slug: 'cross-origin-refused',
    status: 403,
    title: 'Cross-origin request refused',
    detail:
      'Pages of other origins may not change data, and cookies work only on pages of the service. Send a token and add the origin to writingOrigins in the configuration, or set address if the page belongs to the service.',
  });
}

/** A body that changes something must say that it is JSON. */
export function notJson(): HttpRefusal {
  return new HttpRefusal({
    slug: 'unsupported-body',
    status: 415,
    title: 'Content-Type is not JSON',
    detail: 'Send JSON with Content-Type: application/json.',
  });
}

export function methodNotAllowed(method: string, methods: string): HttpRefusal {
  return new HttpRefusal({
    slug: 'method-not-allowed',
    status: 405,
    title: 'Method not allowed',
    detail: `This path does not support ${method}. Supported: ${methods}.`,
  });
}

/** A failure that the caller asked for, to see how it is shown. */
export function simulatedFailure(): HttpRefusal {
  return new HttpRefusal({
    slug: 'simulated-failure',
    status: 503,
    title: 'Simulated failure',
    detail: 'The service runs with --simulate: some requests fail on purpose.',
  });
}

/** An unknown host name: DNS rebinding may have led a browser here. */
export function misdirected(): HttpRefusal {
  return new HttpRefusal({
    slug: 'misdirected',
    status: 421,
    title: 'Unknown host name',
    detail:
      'The Host header names another host. Use the address that the service prints, or start it with --host-name.',
  });
}
