import { printParameters, ServiceError, type WrittenQuery } from '@ephoros/client';
import { namesIn } from '@ephoros/core/view';
import { useEffect, useState } from 'react';
import { Later } from '../later.ts';
import { useSame } from '../use-same.ts';
import type { QueryOptions } from './request-client.ts';

const scan = new Later(() => import('./check-for-writes.ts'));

interface Watching {
  readonly request: QueryOptions | undefined;
  /** What is shown. */
  readonly query: WrittenQuery;
  /** Ms between two looks; undefined never looks. */
  readonly every: number | undefined;
  /** When something was written from here, in ms since 1970: that is nobody else's. */
  readonly wroteAt: () => number;
}

interface Changed {
  readonly written: QueryOptions['written'];
  readonly query: WrittenQuery;
  readonly since: Date;
}

const isRefused = (thrown: unknown): boolean =>
  thrown instanceof ServiceError && thrown.kind === 'refused';

/** A question that reads the same tables as a query, however that is sorted and shown. */
function readBy(query: WrittenQuery): WrittenQuery {
  const { filter, search, columns = [], group = [], aggregate = [], sort = [] } = query;
  const names = namesIn({ columns, group, aggregate, sort }).filter((name) => name.includes('.'));
  return {
    ...(names.length > 0 && {
      columns: names.sort().map((name) => ({ name, span: { start: 0, end: 0 } })),
    }),
    ...(filter !== undefined && { filter }),
    ...(search && { search }),
  };
}

/**
 * Since when others have written to what is shown; undefined where nobody has, or nobody can tell.
 * It looks while the page is visible, and begins again with every question and whenever all is requested
 * again.
 */
export function useChangedSince({ request, query, every, wroteAt }: Watching): Date | undefined {
  const [changed, setChanged] = useState<Changed>();
  const written = request?.written;
  const reads = readBy(query);
  const wanted = useSame(reads, JSON.stringify(printParameters(reads)));
  useEffect(() => {
    if (written === undefined || every === undefined) return undefined;
    const gone = new AbortController();
    const { signal } = gone;
    const check = (): Promise<string | null> => written(wanted, signal);
    const onChange = (since: Date): void => setChanged({ written, query: wanted, since });
    scan.request().then(
      ({ checkForWrites }) =>
        checkForWrites({ check, isRefused, every, wroteAt, onChange, signal }),
      // Where the script does not come, changes by others are not reported; the rows stay.
      () => undefined,
    );
    return () => gone.abort();
  }, [written, every, wanted, wroteAt]);
  return changed?.written === written && changed?.query === wanted ? changed.since : undefined;
}
