import type { Progress } from '@ephoros/core/answer';
import type { ChangeOutcome } from '@ephoros/core/change';
import type { Problem } from '@ephoros/core/problem';

/**
 * `refused`: the request is wrong and will stay so. `away`: the service or its database cannot
 * be reached or is full; the same request may succeed later. `failed`: anything else.
 */
export type ServiceErrorKind = 'refused' | 'unavailable' | 'failed';

interface Details {
  readonly status?: number;
  readonly problems?: readonly Problem[];
  readonly outcomes?: readonly ChangeOutcome[] | undefined;
  readonly requestId?: string;
  readonly retryAfter?: number;
  readonly progress?: Progress | undefined;
  readonly cause?: unknown;
}

/** Why the service gave no answer. The message can be shown to people. */
export class ServiceError extends Error {
  readonly kind: ServiceErrorKind;
  /** HTTP status; absent when there was no answer at all. */
  readonly status: number | undefined;
  /** Every error of a refused request, with its place. */
  readonly problems: readonly Problem[];
  /** Of a set of changes that was not saved: what has become of each; empty for all else. */
  readonly outcomes: readonly ChangeOutcome[];
  readonly requestId: string | undefined;
  /** Seconds after which the service wants to be requested again. */
  readonly retryAfter: number | undefined;

  /** How far what was requested is: it is being found, and is there when it is requested again. */
  readonly progress: Progress | undefined;

  constructor(kind: ServiceErrorKind, message: string, details: Details = {}) {
    super(message, { cause: details.cause });
    this.name = 'ServiceError';
    this.kind = kind;
    this.status = details.status;
    this.problems = details.problems ?? [];
    this.outcomes = details.outcomes ?? [];
    this.requestId = details.requestId;
    this.retryAfter = details.retryAfter;
    this.progress = details.progress;
  }

  /** Reads an answer that is not a success. */
  static async from(response: Response): Promise<ServiceError> {
    const { status } = response;
    const kind = kindOf(status);
    const text = await response.text();
    const seconds = Number(response.headers.get('Retry-After') ?? NaN);
    const retry = Number.isFinite(seconds) ? { retryAfter: seconds } : {};
    try {
      const document = JSON.parse(text) as Document;
      const { detail, title, errors = [], outcomes, requestId, progress } = document;
      const details = {
        status,
        problems: errors,
        outcomes,
        progress,
        ...retry,
        ...(requestId ? { requestId } : {}),
      };
      return new ServiceError(kind, detail ?? title ?? `The service answered ${status}.`, details);
    } catch (cause) {
      return new ServiceError(kind, `The service answered ${status}.`, { status, ...retry, cause });
    }
  }
}

/** The members of a problem document (RFC 9457) that are read here. */
interface Document {
  readonly title?: string;
  readonly detail?: string;
  readonly requestId?: string;
  readonly errors?: readonly Problem[];
  readonly outcomes?: readonly ChangeOutcome[];
  readonly progress?: Progress;
}

function kindOf(status: number): ServiceErrorKind {
  if (status === 502 || status === 503) return 'unavailable';
  return status >= 400 && status < 500 ? 'refused' : 'failed';
}
