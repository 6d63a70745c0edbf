import type { IncomingMessage, ServerResponse } from 'node:http';
import cors from 'cors';
import { isOfOwnPage, isSafe } from './own-origin.ts';

/** What a page may read of an answer beyond its body. */
const exposed = [
  'Content-Disposition',
  'Ephoros-Rows',
  'Ephoros-Rows-About',
  'Ephoros-Written',
  'ETag',
  'Link',
  'Location',
  'Preference-Applied',
  'RateLimit',
  'RateLimit-Policy',
  'Retry-After',
  'Server-Timing',
  'X-Request-Id',
];

/** Seconds that a browser caches what it may ask. */
const remembered = 600;

/** Which pages of other origins use the API from a browser. */
export interface OtherOrigins {
  /** Pages that read; `*` for all of them. None by default. */
  readonly origins?: readonly string[] | undefined;
  /** Pages that read and write; their callers sign in. None by default. */
  readonly writingOrigins?: readonly string[] | undefined;
  /** Where browsers reach the service. */
  readonly address?: string | undefined;
}

type Next = (request: IncomingMessage, response: ServerResponse, answer: () => void) => void;

/**
 * Lets pages of other origins use the API (Fetch standard, CORS protocol). Their cookies are not sent along. Undefined
 * where no origin is named: browsers keep answers from them by themselves.
 */
export function sharing({ origins = [], writingOrigins = [] }: OtherOrigins): Next | undefined {
  if (origins.length + writingOrigins.length === 0) return undefined;
  const shared = { exposedHeaders: exposed, maxAge: remembered };
  const reads = cors({
    ...shared,
    origin: origins.includes('*') ? '*' : [...origins],
    methods: ['GET', 'HEAD', 'POST', ...(origins.includes('*') ? [] : ['PATCH', 'DELETE'])],
  });
  const writes = cors({
    ...shared,
    origin: [...writingOrigins],
    methods: ['GET', 'HEAD', 'POST', 'PATCH', 'DELETE'],
  });
  return (request, response, answer) => {
    const isWriter = writingOrigins.includes(request.headers.origin ?? '');
    (isWriter ? writes : reads)(request, response, answer);
  };
}

/** Requests by POST that ask something: everything else that is not safe may change something. */
const requests =
  /^\/api\/tables\/[^/]+\/(?:query|groups|values\/[^/]+|aggregates|export|advice|written)$/;
const odataRequests = /^\/odata\/.+\/\$query$/;
/** Selections are stored, and select rows: they belong to reading. So does the end of a running query. */
const readings = /^\/api\/(?:selections(?:\/[^/]+)?|queries\/[^/]+)$/;

/**
 * Whether a page elsewhere has a browser send what may change something, and may not: pages that are named read; those
 * that are named for writing write as well.
 */
export function isForeign(
  request: IncomingMessage,
  { origins = [], writingOrigins = [], address }: OtherOrigins,
): boolean {
  const { origin } = request.headers;
  if (origin === undefined || isSafe(request)) return false;
  if (writingOrigins.includes(origin)) return false;
  if (isOfOwnPage(request, address) === true) return false;
  const isNamed = origins.includes(origin);
  if (!isNamed && !origins.includes('*')) return true;
  const [path = ''] = (request.url ?? '').split('?');
  if (isNamed && readings.test(path)) return false;
  const isRead = requests.test(path) || odataRequests.test(path);
  return request.method !== 'POST' || !isRead;
}
