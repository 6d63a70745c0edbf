import type { IncomingMessage } from 'node:http';

/**
 * Whether a request that a browser sends comes from a page of the service itself: by Origin (RFC 6454), which
 * browsers set on whatever may change something, and no page can. Undefined where nothing is stated, as by programs.
 */
export function isOfOwnPage(
  { headers }: Pick<IncomingMessage, 'headers'>,
  address?: string,
): boolean | undefined {
  const { origin, host } = headers;
  const site = headers['sec-fetch-site'];
  if (origin === undefined) {
    return site === undefined ? undefined : site === 'same-origin' || site === 'none';
  }
  if (address !== undefined) return origin === address;
  // Something that speaks TLS may stand in between: the host alone is known here.
  return URL.canParse(origin) && new URL(origin).host === host;
}

/** Whether a request only reads (RFC 9110, 9.2.1). */
export function isSafe({ method }: Pick<IncomingMessage, 'method'>): boolean {
  return method === 'GET' || method === 'HEAD' || method === 'OPTIONS';
}
