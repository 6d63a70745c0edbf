import type { WrittenQuery } from '@ephoros/client';
import { useCallback, useSyncExternalStore } from 'react';
import type { RequestClient, CachedResults } from './request-client.ts';

const never = (): (() => void) => () => undefined;

/** Where a query is answered; undefined where its client keeps nothing. */
export function useCached(
  client: RequestClient | undefined,
  table: string | undefined,
  query: WrittenQuery,
): CachedResults | undefined {
  const subscribe = client?.subscribe;
  const read = (): CachedResults | undefined =>
    table === undefined ? undefined : client?.cached?.(table, query);
  // Another object each time: what it says is compared.
  useSyncExternalStore(
    useCallback((listener: () => void) => (subscribe ?? never)(listener), [subscribe]),
    () => JSON.stringify(read()),
    () => undefined,
  );
  return read();
}
