import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Progress } from '@ephoros/core/answer';
import { catalogue, type Problem } from '@ephoros/core/problem';
import type { Logger } from 'pino';
import { Refused } from '../query/index.ts';
import { RecordsError } from '../records/index.ts';
import { Failure, NotReady, type FailureKind } from '../run/index.ts';
import { AccessError, ClaimsUnfit } from '../access/index.ts';
import { SignInUnavailable, SignInRefused, TooManyAttempts } from '../sign-in/index.ts';
import { send } from './exchange.ts';
import { HttpRefusal, type Outcome } from './refusals.ts';

/** The body of an error (RFC 9457). */
export interface ProblemDocument {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly detail: string;
  /** The request's id, which the log line has too. */
  readonly requestId: string;
  readonly errors?: readonly Problem[];
  /** How far what was asked for is, where it is being found. */
  readonly progress?: Progress;
}

const failures: Readonly<Record<FailureKind, Outcome>> = {
  away: {
    slug: 'database-away',
    status: 503,
    title: 'The database is away',
    detail: 'The database cannot be reached at the moment. Try again shortly.',
    retryAfter: 2,
  },
  full: {
    slug: 'service-full',
    status: 503,
    title: 'The service is full',
    detail: 'All connections to the database are busy. Try again shortly.',
    retryAfter: 1,
  },
  'time-limit': {
    slug: 'time-limit',
    status: 504,
    title: 'The time limit was reached',
    detail:
      'The database took longer than the time limit. Narrow the filter, sort by an indexed column, or ask for total=none. Which index the question would want, ephoros advise says.',
  },
  cancelled: {
    slug: 'cancelled',
    status: 499,
    title: 'The request was abandoned',
    detail: 'The client went away before the answer was ready.',
  },
  changed: {
    slug: 'table-changed',
    status: 503,
    title: 'The table has changed',
    detail: 'The table is no longer what it was. Its description is being read again.',
    retryAfter: 1,
  },
  'refused-value': {
    slug: 'refused-value',
    status: 400,
    title: 'A value was refused',
    detail: 'The database cannot compute with a value of this request.',
  },
  'broken-table': {
    slug: 'broken-table',
    status: 500,
    title: 'The table itself cannot be computed',
    detail:
      'The database fails on a value of this table, whatever is asked of it, as a view does that divides by zero. Its owner must mend it.',
  },
  'too-large': {
    slug: 'answer-too-large',
    status: 413,
    title: 'The answer would be too large',
    detail:
      'One row alone, or all lines together, have more bytes than an answer may have. Ask for fewer columns, or have long values cut: cells=1000.',
  },
  locked: {
    slug: 'rows-locked',
    status: 503,
    title: 'Rows are being changed by somebody else',
    detail: 'Somebody else has been changing the same rows for long. Nothing was saved. Try again.',
    retryAfter: 1,
  },
  unknown: {
    slug: 'internal',
    status: 500,
    title: 'Something went wrong in the service',
    detail: 'The service could not answer. The log has more under the request id.',
  },
};

/** What is being found, and takes longer than a request waits. */
const notReady: Readonly<Record<NotReady['what'], Outcome>> = {
  position: {
    slug: 'position-not-ready',
    status: 503,
    title: 'The place is still being found',
    detail:
      'The rows at this place are still being found. Ask again: progress tells how far that is.',
    retryAfter: 1,
  },
  answer: {
    slug: 'answer-not-ready',
    status: 503,
    title: 'The answer is still being made',
    detail:
      'This takes longer than a request waits, and goes on. Ask again: progress tells how far it is.',
    retryAfter: 1,
  },
};

const changesRefused = {
  slug: 'changes-refused',
  status: 422,
  title: 'The changes cannot be saved as they stand',
} as const;

const changedMeanwhile: Outcome = {
  slug: 'changed-meanwhile',
  status: 409,
  title: 'Rows have changed meanwhile',
  detail:
    'Somebody else has changed or removed rows of this set since they were seen. Nothing was saved; the outcomes tell what the rows are now.',
};

/** Answers that nothing of a set of changes was saved, and what has become of each of its changes. */
export function sendChangesRefused(
  request: IncomingMessage,
  response: ServerResponse,
  answer: {
    readonly status: 409 | 422;
    readonly outcomes: string;
    readonly errors: readonly Problem[];
  },
): void {
  const { errors, outcomes } = answer;
  const outcome: Outcome =
    answer.status === 409 ? changedMeanwhile : outcomeOf(new Refused(errors));
  const requestId = String(response.getHeader('X-Request-Id'));
  sendProblem(request, response, outcome, requestId, outcomes);
}

const badQuery = { slug: 'bad-query', title: 'The query cannot be answered as it stands' };

/** What a refusal of a status is called, where that is not of a query. */
const refusals: Readonly<Partial<Record<number, typeof badQuery>>> = {
  403: { slug: 'not-allowed', title: 'This is not yours to change' },
  404: { slug: 'not-found', title: 'There is nothing here' },
  409: { slug: 'name-taken', title: 'There is one by this name already' },
  412: { slug: 'changed-meanwhile', title: 'It was changed meanwhile' },
  413: { slug: 'too-large', title: badQuery.title },
  428: { slug: 'if-match-needed', title: 'It is not said which version is meant' },
  501: { slug: 'not-implemented', title: 'This part of the standard is not there' },
};

function outcomeOf(thrown: unknown): Outcome {
  if (thrown instanceof Refused) {
    const status = Math.max(...thrown.problems.map(({ code }) => catalogue[code].status));
    const ofChanges = status === 422 || thrown.problems.some(({ change }) => change !== undefined);
    if (ofChanges && status !== 400)
      return { ...changesRefused, detail: thrown.message, errors: thrown.problems };
    const { slug, title } = refusals[status] ?? badQuery;
    return {
      slug,
      status,
      title,
      detail: thrown.message,
      errors: thrown.problems,
    };
  }
  if (thrown instanceof HttpRefusal) return thrown.outcome;
  if (thrown instanceof NotReady) {
    return { ...notReady[thrown.what], progress: progressFact(thrown.progress) };
  }
  if (thrown instanceof SignInRefused) {
    return {
      slug: 'sign-in-refused',
      status: 401,
      title: 'The sign-in does not hold',
      detail: thrown.message,
      challenge: 'Bearer realm="ephoros", error="invalid_token"',
    };
  }
  if (thrown instanceof TooManyAttempts) {
    return {
      slug: 'too-many-attempts',
      status: 429,
      title: 'Too many sign-ins did not hold',
      detail:
        'Too many sign-ins from this address did not hold. Wait a little, then try once more.',
      retryAfter: thrown.retryAfter,
    };
  }
  if (thrown instanceof SignInUnavailable) {
    return {
      slug: 'sign-in-away',
      status: 503,
      title: 'Who you are cannot be told at the moment',
      detail: 'What the service asks for that is away. Try again shortly.',
      retryAfter: 5,
    };
  }
  if (thrown instanceof ClaimsUnfit) {
    return {
      slug: 'claims-unfit',
      status: 403,
      title: 'A claim of yours does not fit the rules',
      detail:
        'The rules of your roles need a claim in another form, such as a number. Ask the issuer of the claim to correct it.',
    };
  }
  if (thrown instanceof AccessError) {
    return {
      slug: 'access-unusable',
      status: 500,
      title: 'What you may see cannot be worked out',
      detail: 'A rule of access does not fit the tables. The log has more under the request id.',
    };
  }
  if (thrown instanceof RecordsError) {
    return {
      slug: 'records-unusable',
      status: 503,
      title: 'The records cannot be used',
      detail: thrown.message,
    };
  }
  if (thrown instanceof Failure) return failures[thrown.kind];
  if (isTooLarge(thrown)) {
    return {
      slug: 'too-large',
      status: 413,
      title: 'The body is too large',
      detail: 'The body of the request is longer than the service reads. Ask a shorter question.',
    };
  }
  const unread = unreadableOf(thrown);
  if (unread !== undefined) return unread;
  if (isMalformedPath(thrown)) {
    return {
      slug: 'bad-query',
      status: 400,
      title: 'The path is malformed',
      detail: 'A percent sign in the path does not begin a valid UTF-8 escape.',
    };
  }
  return failures.unknown;
}

/** Progress as answers have it: whole ms, a share of two digits. */
function progressFact({ share, elapsed, ...rows }: Progress): Progress {
  return { share: Math.floor(share * 100) / 100, elapsed: Math.round(elapsed), ...rows };
}

function isTooLarge(thrown: unknown): boolean {
  return (thrown as { type?: unknown } | null)?.type === 'entity.too.large';
}

/** A body in an encoding or with a charset that nobody reads here. */
function unreadableOf(thrown: unknown): Outcome | undefined {
  const { type, status, code } = (thrown ?? {}) as Readonly<Record<string, unknown>>;
  if (type === 'charset.unsupported' || type === 'encoding.unsupported') {
    return {
      slug: 'unsupported-body',
      status: 415,
      title: 'The body is in an encoding that is not read here',
      detail:
        'Send the body as JSON in UTF-8, without a Content-Encoding or with gzip, deflate, br.',
    };
  }
  const unpacked = typeof code !== 'string' || !code.startsWith('Z_');
  if (unpacked && (status !== 400 || typeof type !== 'string')) return undefined;
  return {
    slug: 'bad-query',
    status: 400,
    title: 'The body cannot be read',
    detail: 'The body broke off, or is not what its headers say.',
  };
}

function isMalformedPath(thrown: unknown): boolean {
  return thrown instanceof URIError;
}

/** Answers with a problem document. */
function sendProblem(
  request: IncomingMessage,
  response: ServerResponse,
  outcome: Outcome,
  requestId: string,
  outcomes?: string,
): void {
  const { slug, status, title, detail, errors, progress } = outcome;
  const document: ProblemDocument = {
    type: `urn:ephoros:problem:${slug}`,
    title,
    status,
    detail,
    requestId,
    ...(errors === undefined ? {} : { errors }),
    ...(progress === undefined ? {} : { progress }),
  };
  const json = JSON.stringify(document);
  // The outcomes are JSON already, with all digits.
  const body = outcomes === undefined ? json : `${json.slice(0, -1)},"outcomes":${outcomes}}`;
  sendPrinted(request, response, outcome, body, 'application/problem+json');
}

function sendPrinted(
  request: IncomingMessage,
  response: ServerResponse,
  { status, retryAfter, challenge }: Pick<Outcome, 'status' | 'retryAfter' | 'challenge'>,
  json: string,
  type = 'application/json',
): void {
  send(request, response, status, Buffer.from(json), {
    ...(retryAfter === undefined ? {} : { 'Retry-After': String(retryAfter) }),
    ...(challenge === undefined ? {} : { 'WWW-Authenticate': challenge }),
    'Cache-Control': 'no-store',
    'Content-Type': `${type}; charset=utf-8`,
  });
}

/**
 * Makes a problem document of what a request came to, and has it logged where that is no fault of
 * the request's. `caller` is who asked, for the log.
 */
export function answerProblem(
  thrown: unknown,
  request: IncomingMessage,
  response: ServerResponse,
  { logger, caller, print }: AnswerBuilder,
): void {
  const outcome = outcomeOf(thrown);
  const requestId = String(response.getHeader('X-Request-Id'));
  if (outcome.status >= 500 && !(thrown instanceof NotReady)) {
    logger.error(
      { requestId, ...(caller === undefined ? {} : { caller }), err: loggable(thrown) },
      outcome.title,
    );
  }
  // Nothing can be said any more in an answer that has begun.
  if (response.headersSent) response.destroy();
  else if (print === undefined) sendProblem(request, response, outcome, requestId);
  else sendPrinted(request, response, outcome, print({ ...outcome, requestId }));
}

/** How what went wrong is told. */
interface AnswerBuilder {
  readonly logger: Logger;
  readonly caller?: string | undefined;
  /** Writes it as JSON of another form than a problem document. */
  readonly print?: ((reported: Outcome & { readonly requestId: string }) => string) | undefined;
}

/** What a log may hold of an error: never PostgreSQL's detail, which quotes values. */
function loggable(thrown: unknown): object {
  const cause: unknown =
    thrown instanceof Failure || thrown instanceof SignInUnavailable ? thrown.cause : thrown;
  const { name, code, message, stack } = (cause ?? {}) as Record<string, unknown>;
  return thrown instanceof Failure && thrown.kind === 'refused-value'
    ? { name, code }
    : { name, code, message, stack };
}
