import { randomBytes, timingSafeEqual } from 'node:crypto';
import type { IncomingMessage } from 'node:http';

const keyHeader = 'ephoros-own';
const addressHeader = 'ephoros-client';

/** Where requests of the service's own come from in truth. */
const madeFor = new WeakMap<IncomingMessage, string>();

/**
 * By what the service knows itself in a request: a key that its processes have by their environment, which workers
 * take over.
 */
export function ownKey(): string {
  return (process.env.EPHOROS_OWN_KEY ??= randomBytes(32).toString('base64url'));
}

/** The address at the other end of a connection; of a request that the service itself makes, that of the first one. */
export function remoteAddressOf(request: IncomingMessage): string | undefined {
  return madeFor.get(request) ?? request.socket.remoteAddress;
}

/**
 * The headers of a request that the service makes to itself for another one, such as for a report: it is counted and
 * logged under the address of that one.
 */
export function ownHeaders(request: IncomingMessage): Readonly<Record<string, string>> {
  const forwarded = request.headers['x-forwarded-for'];
  // In small letters, as Node has the names of headers: the same header is there once.
  return {
    [keyHeader]: ownKey(),
    [addressHeader]: remoteAddressOf(request) ?? '',
    ...(forwarded !== undefined && { 'x-forwarded-for': String(forwarded) }),
  };
}

/** Takes the headers of such a request away, and notes what they say. What somebody else has written counts for nothing. */
export function noteOwn(request: IncomingMessage): void {
  const { headers } = request;
  const { [keyHeader]: key, [addressHeader]: address } = headers;
  if (key === undefined && address === undefined) return;
  Reflect.deleteProperty(headers, keyHeader);
  Reflect.deleteProperty(headers, addressHeader);
  const given = Buffer.from(String(key));
  const own = Buffer.from(ownKey());
  const isOwn = given.length === own.length && timingSafeEqual(given, own);
  if (isOwn && typeof address === 'string') madeFor.set(request, address);
}
