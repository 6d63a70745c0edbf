import type { IncomingMessage } from 'node:http';

/**
 * Whether a request means one of these hosts, loopback, or the very address that it came to: a page elsewhere would
 * lead a browser here by a name of its own.
 */
export function hostTest(names: readonly string[]): (
  request: Pick<IncomingMessage, 'headers'> & {
    readonly socket: { readonly localAddress?: string | undefined };
  },
) => boolean {
  const known = new Set(names.map((name) => name.toLowerCase()));
  return ({ headers, socket }) => {
    const name = (headers.host ?? '').replace(/:\d+$/, '').toLowerCase();
    const address = (socket.localAddress ?? '-').replace(/^::ffff:/, '').toLowerCase();
    const loopback = name === 'localhost' || name === '[::1]' || /^127(?:\.\d{1,3}){3}$/.test(name);
    return loopback || known.has(name) || name.replace(/^\[|\]$/g, '') === address;
  };
}
