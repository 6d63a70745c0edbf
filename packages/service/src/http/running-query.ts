import { deflateRawSync, inflateRawSync } from 'node:zlib';

/** A query that is not ready yet, as the resource `/queries/{id}` names it. */
export interface RunningQuery {
  readonly method: 'GET' | 'POST';
  /** Path and parameters, without the path that the API is mounted at. */
  readonly url: string;
  /** The body of a POST. */
  readonly body?: string | undefined;
}

/** Characters of an id at most: it is part of a URL. */
const longestId = 12_000;
/** Characters of a query that an id may stand for. */
const longestQuery = 1_200_000;

/**
 * The id of a running query. It contains the query itself, so that every worker and every service can answer for it.
 * It grants nothing: a caller gets what the query would answer to them. Undefined for queries that are too
 * long for a URL; callers repeat them instead.
 */
export function idOf(query: RunningQuery): string | undefined {
  const { method, url, body } = query;
  const text = JSON.stringify(body === undefined ? [method, url] : [method, url, body]);
  const id = deflateRawSync(text).toString('base64url');
  return id.length > longestId ? undefined : id;
}

/** The query that an id stands for; undefined where it stands for none. */
export function queryOf(id: string): RunningQuery | undefined {
  try {
    const packed = Buffer.from(id, 'base64url');
    const text = inflateRawSync(packed, { maxOutputLength: longestQuery }).toString('utf8');
    const [method, url, body] = JSON.parse(text) as readonly unknown[];
    if ((method !== 'GET' && method !== 'POST') || typeof url !== 'string') return undefined;
    if (!url.startsWith('/')) return undefined;
    if (body === undefined) return { method, url };
    return typeof body === 'string' ? { method, url, body } : undefined;
  } catch {
    return undefined;
  }
}
