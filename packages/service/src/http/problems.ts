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
  /** How far what was requested is, where it is being found. */
  readonly progress?: Progress;
}

const internal: Outcome = {
  slug: 'internal',
  status: 500,
  title: 'Internal error',
  detail: 'The service could not answer. The log has details under the request id.',
};

const failures: Readonly<Record<FailureKind, Outcome>> = {
  unavailable: {
    slug: 'database-unavailable',
    status: 503,
    title: 'Database unavailable',
    detail: 'The service cannot reach the database. Try again shortly.',
    retryAfter: 2,
  },
  full: {
    slug: 'service-busy',
    status: 503,
    title: 'Service busy',
    detail: 'All database connections are busy. Try again shortly.',
    retryAfter: 1,
  },
  'time-limit': {
    slug: 'time-limit',
    status: 504,
    title: 'Time limit exceeded',
    detail:
      'The query took longer than the time limit. Narrow the filter, sort by an indexed column, or use total=none. `ephoros advise` suggests an index.',
  },
  cancelled: {
    slug: 'cancelled',
    status: 499,
    title: 'Request cancelled',
    detail: 'The client disconnected before the answer was ready.',
  },
  changed: {
    slug: 'table-changed',
    status: 503,
    title: 'Table changed',
    detail: 'The table definition has changed. The service is reading it again. Try again shortly.',
    retryAfter: 1,
  },
  'refused-value': {
    slug: 'refused-value',
    status: 400,
    title: 'Invalid value',
    detail: 'The database cannot compute a value of this request, such as a division by zero.',
  },
  'broken-table': {
    slug: 'broken-table',
    status: 500,
    title: 'Table cannot be computed',
    detail:
      'The database fails on a value in this table or view, such as a division by zero. Its owner must fix it.',
  },
  'too-large': {
    slug: 'answer-too-large',
    status: 413,
    title: 'Answer too large',
    detail:
      'The answer has more bytes than allowed. Request fewer columns, or cut long values: cells=1000.',
  },
  locked: {
    slug: 'rows-locked',
    status: 503,
    title: 'Rows locked',
    detail: 'Another transaction holds locks on these rows. Nothing was saved. Try again.',
    retryAfter: 1,
  },
  'no-space': {
    slug: 'disk-full',
    status: 507,
    title: 'Disk full',
    detail: 'The database server has no disk space left. Its operator must free disk space.',
  },
  'temp-limit': {
    slug: 'temporary-space',
    status: 507,
    title: 'Temporary space limit reached',
    detail:
      'The query needs more temporary space than the database allows (temp_file_limit). Narrow the filter, or sort by an indexed column.',
  },
  'no-memory': {
    slug: 'out-of-memory',
    status: 503,
    title: 'Out of memory',
    detail:
      'The database server has no memory left for this query. Try again, or narrow the filter.',
    retryAfter: 5,
  },
  'too-complex': {
    slug: 'query-too-complex',
    status: 507,
    title: 'Query too complex',
    detail: 'The query exceeds the stack of the database server. Remove nested conditions.',
  },
  'not-populated': {
    slug: 'not-populated',
    status: 503,
    title: 'View not populated',
    detail: 'This materialized view has no data yet. Its owner must run REFRESH MATERIALIZED VIEW.',
    retryAfter: 60,
  },
  'not-on-replica': {
    slug: 'not-on-replica',
    status: 503,
    title: 'Table not on the replica',
    detail:
      'A replica has no data of unlogged tables, and the primary is unavailable. Try again later.',
    retryAfter: 5,
  },
  mismatched: internal,
  unknown: internal,
};

/** A query that outlasts the wait of its caller. */
const waitExceeded: Outcome = {
  slug: 'wait-exceeded',
  status: 504,
  title: 'Wait exceeded',
  detail:
    'The query is still running after the wait of this request. Repeat it, raise wait=N in the Prefer header, or send respond-async to get the progress.',
  retryAfter: 1,
};

const changesRefused = {
  slug: 'changes-refused',
  status: 422,
  title: 'Changes refused',
} as const;

const changedMeanwhile: Outcome = {
  slug: 'conflict',
  status: 409,
  title: 'Conflict',
  detail:
    'Someone else changed or removed rows of this set after you read them. Nothing was saved. The outcomes have the current rows.',
};

/** Answers a change set of which nothing was saved, with the outcome of each change. */
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

const badQuery = { slug: 'bad-query', title: 'Invalid query' };

/** Slug and title by status, for refusals of other requests than queries. */
const refusals: Readonly<Partial<Record<number, typeof badQuery>>> = {
  403: { slug: 'not-allowed', title: 'Not allowed' },
  404: { slug: 'not-found', title: 'Not found' },
  409: { slug: 'name-taken', title: 'Name taken' },
  412: { slug: 'version-mismatch', title: 'Version mismatch' },
  413: { slug: 'too-large', title: badQuery.title },
  428: { slug: 'if-match-needed', title: 'If-Match required' },
  501: { slug: 'not-implemented', title: 'Not implemented' },
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
    return { ...waitExceeded, progress: progressFact(thrown.progress) };
  }
  if (thrown instanceof SignInRefused) {
    return {
      slug: 'sign-in-refused',
      status: 401,
      title: 'Invalid credentials',
      detail: thrown.message,
      challenge: 'Bearer realm="ephoros", error="invalid_token"',
    };
  }
  if (thrown instanceof TooManyAttempts) {
    return {
      slug: 'too-many-attempts',
      status: 429,
      title: 'Too many failed sign-ins',
      detail: 'Too many sign-ins from this address failed. Wait, then try again.',
      retryAfter: thrown.retryAfter,
    };
  }
  if (thrown instanceof SignInUnavailable) {
    return {
      slug: 'sign-in-unavailable',
      status: 503,
      title: 'Identity provider unavailable',
      detail: 'The service cannot reach the identity provider. Try again shortly.',
      retryAfter: 5,
    };
  }
  if (thrown instanceof ClaimsUnfit) {
    return {
      slug: 'unsuitable-claim',
      status: 403,
      title: 'Unsuitable claim',
      detail:
        'An access rule needs a claim of your token in another form, such as a number. Ask the issuer of the token to correct it.',
    };
  }
  if (thrown instanceof AccessError) {
    return {
      slug: 'access-rule-error',
      status: 500,
      title: 'Access rule error',
      detail: 'An access rule does not match the tables. The log has details under the request id.',
    };
  }
  if (thrown instanceof RecordsError) {
    return {
      slug: 'records-unavailable',
      status: 503,
      title: 'Records unavailable',
      detail: thrown.message,
    };
  }
  if (thrown instanceof Failure) return failures[thrown.kind];
  if (isTooLarge(thrown)) {
    return {
      slug: 'too-large',
      status: 413,
      title: 'Request body too large',
      detail: 'The request body is longer than allowed. Shorten it.',
    };
  }
  const unread = unreadableOf(thrown);
  if (unread !== undefined) return unread;
  if (isMalformedPath(thrown)) {
    return {
      slug: 'bad-query',
      status: 400,
      title: 'Malformed path',
      detail: 'A percent sign in the path does not start a valid UTF-8 escape.',
    };
  }
  return failures.unknown;
}

/** Progress as answers have it: whole ms, a share of two digits. */
export function progressFact({ share, elapsed, ...rows }: Progress): Progress {
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
      title: 'Unsupported encoding',
      detail:
        'Send the body as JSON in UTF-8, without a Content-Encoding or with gzip, deflate, br.',
    };
  }
  const unpacked = typeof code !== 'string' || !code.startsWith('Z_');
  if (unpacked && (status !== 400 || typeof type !== 'string')) return undefined;
  return {
    slug: 'bad-query',
    status: 400,
    title: 'Unreadable request body',
    detail: 'The request body ended early, or does not match its headers.',
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
 * the request's. `caller` is who requested, for the log.
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
  // Nothing can be stated any more in an answer that has begun.
  if (response.headersSent) response.destroy();
  else if (print === undefined) sendProblem(request, response, outcome, requestId);
  else sendPrinted(request, response, outcome, print({ ...outcome, requestId }));
}

/** How what went wrong is reported. */
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
