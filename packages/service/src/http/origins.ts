import type { IncomingMessage, ServerResponse } from 'node:http';
import cors from 'cors';

/** What a page may read of an answer beyond its body. */
const exposed = [
  'Content-Disposition',
  'Ephoros-Rows',
  'Ephoros-Rows-About',
  'Ephoros-Written',
  'ETag',
  'Link',
  'Location',
  'RateLimit',
  'RateLimit-Policy',
  'Retry-After',
  'Server-Timing',
  'X-Request-Id',
];

/** Seconds that a browser remembers what it may ask. */
const remembered = 600;

type Next = (request: IncomingMessage, response: ServerResponse, answer: () => void) => void;

/**
 * Lets pages of other origins read the API (Fetch standard, CORS protocol): of those that are named, or of all by `*`.
 * Their cookies are not sent along. Undefined where none is: browsers keep answers from them by themselves.
 */
export function sharing(origins: readonly string[]): Next | undefined {
  if (origins.length === 0) return undefined;
  const share = cors({
    origin: origins.includes('*') ? '*' : [...origins],
    methods: ['GET', 'HEAD', 'POST', 'PATCH', 'DELETE'],
    exposedHeaders: exposed,
    maxAge: remembered,
  });
  return (request, response, answer) => share(request, response, answer);
}
