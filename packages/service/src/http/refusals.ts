import type { Progress } from '@ephoros/core/answer';
import type { Problem } from '@ephoros/core/problem';

/** What a request came to that was not answered. */
export interface Outcome {
  readonly slug: string;
  readonly status: number;
  readonly title: string;
  readonly detail: string;
  readonly retryAfter?: number;
  /** How to say who one is (RFC 9110, 11.6.1). */
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
    title: 'There is nothing here',
    detail: `Nothing is served at ${path}. The paths are listed in openapi.json.`,
  });
}

/** Nobody is known to ask. */
export function unauthorized(): HttpRefusal {
  return new HttpRefusal({
    slug: 'unauthorized',
    status: 401,
    title: 'Nobody is known to ask',
    detail: 'This needs a caller who is known. Sign in, then ask again.',
    challenge: 'Bearer realm="ephoros"',
  });
}

/** What a caller may not do, whatever rows it may see. `what` ends the sentence "You may not …". */
export function notAllowed(what: string): HttpRefusal {
  return new HttpRefusal({
    slug: 'not-allowed',
    status: 403,
    title: 'This is not allowed to you',
    detail: `You may not ${what}. Whoever runs the service can give you a role that may.`,
  });
}

/** A caller has asked all that may be asked within a time. */
export function tooMuch(retryAfter: number): HttpRefusal {
  return new HttpRefusal({
    slug: 'too-much',
    status: 429,
    title: 'You have asked too much for now',
    detail: `What may be asked within a time is used up; RateLimit tells of what. Ask again in ${retryAfter} s.`,
    retryAfter,
  });
}

/** A page of somebody else's may have had a browser send this. */
export function foreignPage(): HttpRefusal {
  return new HttpRefusal({
    slug: 'foreign-page',
    status: 403,
    title: 'This does not come from a page of the service',
    detail:
      'A page of another origin changes nothing, and the cookies of a browser count from pages of the service alone. Send a token, and name the origin of the page in the configuration: writingOrigins; or address, where the page is the service’s own.',
  });
}

/** A body that changes something must say that it is JSON. */
export function notJson(): HttpRefusal {
  return new HttpRefusal({
    slug: 'unsupported-body',
    status: 415,
    title: 'The body is not said to be JSON',
    detail: 'Send JSON, and say so: Content-Type: application/json.',
  });
}

export function methodNotAllowed(method: string, methods: string): HttpRefusal {
  return new HttpRefusal({
    slug: 'method-not-allowed',
    status: 405,
    title: 'This method is not known here',
    detail: `${method} is not known here. Known are ${methods}.`,
  });
}

/** A failure that was asked for, to be looked at. */
export function simulatedFailure(): HttpRefusal {
  return new HttpRefusal({
    slug: 'simulated-failure',
    status: 503,
    title: 'This failure is simulated',
    detail: 'The service was started with --simulate: some requests fail, so that it can be seen.',
  });
}

/** A name that this service does not go by: a page elsewhere may have led a browser here. */
export function misdirected(): HttpRefusal {
  return new HttpRefusal({
    slug: 'misdirected',
    status: 421,
    title: 'This is not the name of the service',
    detail:
      'The Host header names another host. Ask at the address that the service prints, or have it started with that name: --host-name.',
  });
}
