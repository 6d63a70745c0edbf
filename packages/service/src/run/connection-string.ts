import type { ClientConfig } from 'pg';
import { parse, toClientConfig } from 'pg-connection-string';

/**
 * A connection string as libpq takes it (PostgreSQL manual, 34.1): each `sslmode` by its own
 * meaning, and a host that is the folder of a socket. `allow` and `prefer` connect without TLS:
 * there is no second try. @throws TypeError for what is no connection string
 */
export function connectionOf(url: string): ClientConfig {
  if (!/^(?:postgres(?:ql)?|socket):\/\//i.test(url)) {
    throw new TypeError('A database is written as postgres://user@host:port/name.');
  }
  const wanted = parse(url, { useLibpqCompat: !/[?&]uselibpqcompat=/.test(url) });
  const { sslmode } = wanted;
  const optional = sslmode === 'allow' || sslmode === 'prefer';
  return toClientConfig(optional ? { ...wanted, ssl: false } : wanted);
}
