import { fetchText, ServiceError, type ClientOptions, type TextRequest } from '@ephoros/client';
import { storedToken } from './stored-tokens.ts';
import { progressOn } from './output/progress.ts';
import type { Terminal } from './terminal.ts';

/** What of an answer's window says whether it is whole. */
interface Window {
  readonly scanned?: { readonly rows: number; readonly of: number };
  readonly count?: number;
  readonly limit?: number;
}

/** Whom a command asks, as its options say. */
export interface Requested {
  readonly url: string;
  /** Headers of each request. */
  readonly header: Readonly<Record<string, string>>;
  /** Where the progress of a long answer is written. */
  readonly terminal?: Terminal;
}

/** Query parameters as they were typed; those not given are undefined. */
export type TypedParameters = Readonly<Record<string, string | undefined>>;

/** A refused question, with the parameters that the refusal speaks of. */
export class QueryError extends Error {
  readonly error: ServiceError;
  readonly parameters: TypedParameters;

  constructor(error: ServiceError, parameters: TypedParameters) {
    super(error.message);
    this.name = 'QuestionError';
    this.error = error;
    this.parameters = parameters;
  }
}

/** The same as a client takes it; as anyone who has signed in there, where nothing else says who asks. */
export function addressed({ url, header }: Requested): ClientOptions {
  const isExplicit = Object.keys(header).some((name) => name.toLowerCase() === 'authorization');
  const token = isExplicit ? undefined : storedToken(url, process.env);
  const headers = token === undefined ? header : { ...header, Authorization: `Bearer ${token}` };
  return { url: apiAt(url), headers };
}

/** Where the API is: a service has it under /api, a router where it is mounted. */
function apiAt(url: string): string {
  const plain = url.replace(/\/$/, '');
  return /^[a-z]+:\/\/[^/]+$/i.test(plain) ? `${plain}/api` : plain;
}

/** Ms until a result that is still being looked through is requested again: the service waits a while itself. */
const again = 100;

/**
 * Asks about a table with parameters as they were typed. `text` is the answer as it came. What takes the service
 * long is waited for, also the rest of a result that it is looking through; on a terminal a line says how far that
 * is.
 * @throws QuestionError
 */
export async function sendRequest(
  wanted: Requested,
  table: string,
  query: TextRequest,
  parameters: TypedParameters,
): Promise<{ readonly answer: unknown; readonly text: string }> {
  const { terminal } = wanted;
  const progress = terminal?.stderr.isTTY === true ? progressOn(terminal) : undefined;
  const reported = new Map<string, number>();
  const notify = (name: string, done: number, of: number): void => {
    reported.set(name, of);
    progress?.step(name, Math.min(done, of), of);
  };
  const finding = ({ share }: { readonly share: number }): void =>
    notify('finding', Math.floor(share * 100), 100);
  try {
    for (;;) {
      const read = await fetchText(addressed(wanted), table, query, parameters, undefined, finding);
      const { window } = read.answer as { readonly window?: Window };
      const { scanned, count = 0, limit = 0 } = window ?? {};
      const whole = scanned === undefined || count >= limit;
      // An explanation reports what was found so far as well.
      if (whole || parameters.explain !== undefined) {
        for (const [name, of] of reported) progress?.step(name, of, of);
        return read;
      }
      notify('searching', scanned.rows, scanned.of);
      await new Promise((resolve) => setTimeout(resolve, again));
    }
  } catch (thrown) {
    if (!(thrown instanceof ServiceError)) throw thrown;
    const error =
      thrown.kind === 'unavailable' && thrown.status === undefined
        ? new ServiceError('unavailable', `No service answers at ${wanted.url}.`, { cause: thrown })
        : thrown;
    throw new QueryError(error, parameters);
  }
}
