import type { IncomingMessage, ServerResponse } from 'node:http';
import { parseCookie, stringifySetCookie } from 'cookie';
import etag from 'etag';
import fresh from 'fresh';
import type { Access } from '../access/index.ts';
import type { QueryOptions, RequestContext } from '../engine/index.ts';
import { Tally } from '../query/index.ts';
import {
  replicaContexts,
  parsePosition,
  type ReplicaContext,
  type WaitBudget,
} from '../run/index.ts';

/** A request, also one that an Express application has had in its hands. */
export type ApiRequest = IncomingMessage & {
  /** With the parameters, without the path that the API is mounted at. */
  readonly url?: string;
  /** As the client wrote it; `url` where nobody has changed that. */
  readonly originalUrl?: string;
  /** The path that the API is mounted at. */
  readonly baseUrl?: string;
  /** Where somebody has read it already. */
  readonly body?: unknown;
  /** How long its caller waits, where its `Prefer` header does not say so. */
  readonly budget?: WaitBudget;
};

/** Answers a request; `open` are the parts of its path that the route leaves open, decoded. */
export type RouteAnswer = (
  context: RequestContext,
  request: ApiRequest,
  response: ServerResponse,
  open: Readonly<Record<string, string>>,
) => Promise<void>;

/** Reads a body that says that it is JSON. */
export type ReadJsonText = (request: ApiRequest, response: ServerResponse) => Promise<string>;

/** Characters of an answer that is compressed, where the way compresses at all. */
export const worthCompressing = 2_048;

/** Responses that are compressed on their way, so that one answer has several encodings. */
const compressed = new WeakSet<ServerResponse>();

export function markCompressed(response: ServerResponse): void {
  compressed.add(response);
}

const routes = new WeakMap<ServerResponse, string>();

/** Says which path, as the API knows it, a response answers; for the metrics. */
export function setRoute(response: ServerResponse, route: string): void {
  routes.set(response, route);
}

export function routeOf(response: ServerResponse): string | undefined {
  return routes.get(response);
}

export type Headers = Readonly<Record<string, string>>;

/**
 * Sends JSON with a validator; without a body where the client has it already (RFC 9110, 13.1.2).
 * The validator is strong, whatever the application around makes of its own answers; but not where
 * the same answer goes out in several encodings (8.8.1).
 */
export function sendJson(
  request: IncomingMessage,
  response: ServerResponse,
  json: string,
  headers: Headers = {},
): void {
  const body = Buffer.from(json);
  const weak = compressed.has(response) && body.length >= worthCompressing;
  sendUnlessFresh(request, response, body, {
    ...headers,
    ETag: etag(body, { weak }),
    'Cache-Control': 'private, no-cache',
  });
}

/** Sends JSON with a strong validator of its own, in one encoding. */
export function sendTagged(
  request: IncomingMessage,
  response: ServerResponse,
  json: string,
  ETag: string,
): void {
  const headers = { ETag, 'Cache-Control': 'private, no-cache, no-transform' };
  sendUnlessFresh(request, response, Buffer.from(json), headers);
}

function sendUnlessFresh(
  request: IncomingMessage,
  response: ServerResponse,
  body: Buffer,
  headers: Headers & { readonly ETag: string },
): void {
  const { method } = request;
  // What was changed is reported, whatever the client has had before.
  const asks = method === 'GET' || method === 'HEAD' || method === 'POST';
  if (asks && fresh(request.headers, { etag: headers.ETag })) {
    response.writeHead(304, headers).end();
    return;
  }
  send(request, response, 200, body, {
    'Content-Type': 'application/json; charset=utf-8',
    ...headers,
  });
}

/** Sends what has come into being; `Location` says where. */
export function sendMade(
  request: IncomingMessage,
  response: ServerResponse,
  json: string,
  headers: Headers,
): void {
  send(request, response, 201, Buffer.from(json), {
    ...headers,
    'Cache-Control': 'no-store',
    'Content-Type': 'application/json; charset=utf-8',
  });
}

/** Says that a query goes on (RFC 9110, 15.3.3): `Location` says where its answer will be, if there is room for it. */
export function sendRunning(
  request: IncomingMessage,
  response: ServerResponse,
  json: string,
  headers: Headers,
): void {
  send(request, response, 202, Buffer.from(json), {
    ...headers,
    'Cache-Control': 'no-store',
    'Content-Type': 'application/json; charset=utf-8',
    'Retry-After': '1',
    Vary: 'Prefer',
  });
}

/** Says that something is gone. */
export function sendNothing(response: ServerResponse): void {
  response.writeHead(204, { 'Cache-Control': 'no-store' }).end();
}

/** Sends a body; of a HEAD request the headers alone. */
export function send(
  request: IncomingMessage,
  response: ServerResponse,
  status: number,
  body: Buffer,
  headers: Headers,
): void {
  response.writeHead(status, { ...headers, 'Content-Length': body.length });
  if (request.method === 'HEAD') response.end();
  else response.end(body);
}

/** What every question passes before it is answered. */
export interface RequestPolicy {
  /** What the caller of a request may see; everything where nothing is stated. */
  readonly accessOf: (request: ApiRequest) => Promise<Access | undefined> | Access | undefined;
  /** Lets a request in by what its caller has requested so far; returns what to notify when it is over. @throws HttpRefusal */
  readonly count?: (
    options: CountedRequest,
  ) => Promise<((tally: Tally) => void) | undefined> | undefined;
  /** Whose requests are counted together; by the connection where callers are not known, by default. */
  readonly nameOf?: ((options: CountedRequest) => string) | undefined;
  /** Event streams of one caller at most. */
  readonly streams?: number | undefined;
  /** Called for every request, once it is over. */
  readonly note?: (options: CountedRequest, tally: Tally) => void;
}

/** A request with who has sent it. */
export interface CountedRequest {
  readonly request: ApiRequest;
  readonly response: ServerResponse;
  readonly access: Pick<Access, 'caller'> | undefined;
}

/** Who asks, until when, and whether their question can be answered once more: not where an answer has begun. */
export async function requestOptionsOf(
  request: ApiRequest,
  response: ServerResponse,
  { accessOf, count, note }: RequestPolicy,
): Promise<QueryOptions> {
  const access = await accessOf(request);
  const tally = new Tally();
  const options = { request, response, access };
  const spend = await count?.(options);
  if (spend !== undefined || note !== undefined) {
    response.once('close', () => {
      spend?.(tally);
      note?.(options, tally);
    });
  }
  return {
    access,
    tally,
    replicaContext: replicaContextOf(request),
    signal: goneSignal(response),
    mayRepeat: () => !response.headersSent,
  };
}

/** Where the log stood behind what a caller has written (pg_lsn): a reader sends it back, and sees what was written. */
const writtenHeader = 'Ephoros-Written';
const writtenCookie = 'ephoros-written';
/** Seconds that it is sent back for: by then every replica that is read from has it. */
const writtenFor = 60;

function replicaContextOf({ headers }: ApiRequest): ReplicaContext {
  const written = headers[writtenHeader.toLowerCase()];
  const text =
    typeof written === 'string' ? written : parseCookie(headers.cookie ?? '')[writtenCookie];
  const after = text === undefined ? undefined : parsePosition(text);
  return after === undefined ? {} : { after };
}

/** Shows where the log stands behind what was just written, to programs and to browsers. */
export function notifyWritten(response: ServerResponse): void {
  const wrote = replicaContexts.getStore()?.wrote;
  if (wrote === undefined) return;
  response.setHeader(writtenHeader, wrote);
  response.appendHeader(
    'Set-Cookie',
    stringifySetCookie({
      name: writtenCookie,
      value: wrote,
      path: '/',
      maxAge: writtenFor,
      httpOnly: true,
      sameSite: 'lax',
    }),
  );
}

/** Aborts when the client goes away before the answer is sent. */
export function goneSignal(response: ServerResponse): AbortSignal {
  const controller = new AbortController();
  response.once('close', () => {
    if (!response.writableFinished) controller.abort();
  });
  return controller.signal;
}
