import type { Progress } from '@ephoros/core/answer';
import type { Logging, RequestLog } from './request-log.ts';
import { pause } from './pause.ts';
import { ServiceError } from './service-error.ts';

/** Headers by name. */
export type RequestHeaders = Readonly<Record<string, string>>;

export interface ClientOptions {
  /**
   * Where the API is: "http://127.0.0.1:4620/api", or "/records" where the router is mounted at
   * that path of the page's own origin.
   */
  readonly url: string;
  /**
   * Sent with each request: `{ Authorization: `Bearer ${token}` }`. A function is called each time,
   * so that a token may be another one by then.
   */
  readonly headers?: RequestHeaders | (() => RequestHeaders | Promise<RequestHeaders>);
  /** Used instead of the global `fetch`. */
  readonly fetch?: typeof fetch;
  /** The log that has every request, for developers. */
  readonly log?: Pick<RequestLog, 'begin'>;
}

/** A parameter's name and its text. */
export type Pair = readonly [string, string];

/** How a request is sent that is no GET. */
interface Sent {
  readonly method?: string;
  readonly headers?: RequestHeaders;
  /** Whether it stands in no log: what is requested again and again would bury the rest. */
  readonly unlogged?: boolean;
  /** Called with the progress of a long answer. */
  readonly onProgress?: OnProgress | undefined;
}

/** Called with the progress of a long answer, as often as the service reports it. */
export type OnProgress = (progress: Progress) => void;

/** Ms until what is not ready yet is requested again: the service itself waits a while each time. */
const again = 20;

/**
 * Queries are answered within 0.8 s: by their answer or, while they go on, by their progress (RFC 7240). The value
 * is the service's own default.
 */
const preference = { Prefer: 'respond-async, wait=0.8' };

/** Characters of a URL, so that every proxy on the way takes it. */
export const mostUrl = 2_000;

/** Asks an API; answers are JSON. Rejects with a `ServiceError`, or with the signal's reason. */
export class Transport {
  private readonly url: string;
  private readonly headers: NonNullable<ClientOptions['headers']>;
  private readonly fetch: typeof fetch;
  private readonly log: ClientOptions['log'];

  constructor({
    url,
    headers = {},
    // Called by itself: browsers refuse their own fetch as a method of anything else.
    fetch: send = (...request) => fetch(...request),
    log,
  }: ClientOptions) {
    this.url = url.replace(/\/$/, '');
    this.headers = headers;
    this.fetch = send;
    this.log = log;
  }

  /** The address of a table, or of the list of tables. */
  addressOf(table?: string): string {
    return this.addressIn('tables', table);
  }

  /** The address of one of some things, or of all of them. */
  addressIn(things: string, name?: string): string {
    const base = `${this.url}/${things}`;
    return name === undefined ? base : `${base}/${encodeURIComponent(name)}`;
  }

  async get(address: string, signal?: AbortSignal): Promise<unknown> {
    return (await this.read(address, signal)).answer;
  }

  /** Sends what changes something; undefined where the answer says nothing. */
  async send(
    method: string,
    address: string,
    body: string | undefined,
    signal?: AbortSignal,
    more: RequestHeaders = {},
  ): Promise<unknown> {
    const headers = body === undefined ? more : { 'Content-Type': 'application/json', ...more };
    return (await this.read(address, signal, body, { method, headers })).answer;
  }

  /**
   * A question by its parameters, in the URL; what is longer than every server and proxy takes goes
   * into a body, to `posted`. `text` is the answer as it came, with all digits.
   */
  query(
    address: string,
    pairs: readonly Pair[],
    signal: AbortSignal | undefined,
    posted = address,
    sent: Pick<Sent, 'unlogged' | 'onProgress'> = {},
  ): Promise<{ readonly answer: unknown; readonly text: string }> {
    const path = withParameters(address, pairs);
    const prefers = { ...sent, headers: preference };
    if (path.length <= mostUrl) return this.read(path, signal, undefined, prefers);
    const body = JSON.stringify(Object.fromEntries(pairs));
    return this.read(posted, signal, body, { method: 'POST', ...prefers });
  }

  private async read(
    address: string,
    signal: AbortSignal | undefined,
    body?: string,
    sent: Sent = body === undefined ? {} : { method: 'POST' },
  ): Promise<{ readonly answer: unknown; readonly text: string }> {
    const { method = 'GET' } = sent;
    const log = sent.unlogged === true ? undefined : this.log;
    const logged = log?.begin({ method, address, body, base: this.url }, (to, otherwise, until) =>
      this.fetched(to, until, otherwise, sent, undefined),
    );
    try {
      const read = await this.whenReady(address, signal, body, sent, logged);
      logged?.read(read.answer, read.text.length);
      return read;
    } catch (thrown) {
      logged?.failed(thrown);
      throw thrown;
    }
  }

  /** Asks until the answer is ready. */
  private async whenReady(
    ...wanted: Parameters<Transport['fetched']>
  ): ReturnType<Transport['fetched']> {
    const [, signal, , { onProgress }] = wanted;
    for (;;) {
      try {
        return await this.fetched(...wanted);
      } catch (thrown) {
        if (!(thrown instanceof ServiceError) || thrown.progress === undefined) throw thrown;
        onProgress?.(thrown.progress);
        await pause(again, signal);
      }
    }
  }

  private async fetched(
    address: string,
    signal: AbortSignal | undefined,
    body: string | undefined,
    sent: Sent,
    reported: Logging | undefined,
  ): Promise<{ readonly answer: unknown; readonly text: string }> {
    const response = await this.respond(address, signal, body, sent, reported);
    try {
      const text = await response.text();
      if (response.status === 204) return { answer: undefined, text };
      const answer = JSON.parse(text) as { readonly progress?: Progress };
      const { status } = response;
      if (status === 202) throw new ServiceError('unavailable', 'Running', { ...answer, status });
      return { answer, text };
    } catch (cause) {
      if (signal?.aborted === true || cause instanceof ServiceError) throw cause;
      if (response.headers.get('Content-Type')?.includes('html') === true) {
        const message = `What answers at ${address} is a page, no API. Is ${this.url} where it is?`;
        throw new ServiceError('failed', message, { status: response.status, cause });
      }
      throw new ServiceError('unavailable', 'The connection broke in the middle of an answer.', {
        cause,
      });
    }
  }

  /** What answers, before it is read. */
  async respond(
    address: string,
    signal: AbortSignal | undefined,
    body?: string,
    { method, headers: more = {} }: Sent = {},
    reported?: Logging,
  ): Promise<Response> {
    const { headers } = this;
    const own = typeof headers === 'function' ? await headers() : headers;
    let response: Response;
    try {
      response = await this.fetch.call(undefined, address, {
        // A question's body goes without a type, so that nobody on the way reads numbers in it.
        headers: { Accept: 'application/json', ...more, ...own },
        ...(method === undefined ? {} : { method }),
        ...(body === undefined ? {} : { body }),
        ...(signal === undefined ? {} : { signal }),
      });
    } catch (cause) {
      if (signal?.aborted === true) throw cause;
      throw new ServiceError('unavailable', 'The service cannot be reached.', { cause });
    }
    reported?.answered(response);
    if (!response.ok) throw await ServiceError.from(response);
    return response;
  }
}

export function withParameters(address: string, pairs: readonly Pair[]): string {
  const search = pairs.map(([name, text]) => `${name}=${encodeURIComponent(text)}`).join('&');
  return search === '' ? address : `${address}?${search}`;
}

/** What is requested of a table: its rows, groups, aggregates, or the values of a column. */
export type TextRequest =
  'rows' | 'groups' | 'aggregates' | 'advice' | { readonly valuesOf: string };

/**
 * Asks about a table with parameters as texts, so that the service reads and refuses them in their
 * own spelling: for programs that hand on what somebody typed. `text` is the answer as it came,
 * with all digits of its numbers. @throws ServiceError
 */
export function fetchText(
  options: ClientOptions,
  table: string,
  query: TextRequest,
  parameters: Readonly<Record<string, string | undefined>>,
  signal?: AbortSignal,
  onProgress?: OnProgress,
): Promise<{ readonly answer: unknown; readonly text: string }> {
  const transport = new Transport(options);
  const own = transport.addressOf(table);
  const path = typeof query === 'string' ? query : `values/${encodeURIComponent(query.valuesOf)}`;
  const pairs = Object.entries(parameters).flatMap(([name, text]): Pair[] =>
    text === undefined ? [] : [[name, text]],
  );
  const posted = query === 'rows' ? `${own}/query` : `${own}/${path}`;
  return transport.query(`${own}/${path}`, pairs, signal, posted, { onProgress });
}
