import { printParameters, ServiceError, type WrittenQuery } from '@ephoros/client';
import { namesIn } from '@ephoros/core/view';
import { useEffect, useState } from 'react';
import { Later } from '../later.ts';
import { useSame } from '../use-same.ts';
import type { Asking } from './asked-client.ts';

const looking = new Later(() => import('./look-for-writes.ts'));

interface Watching {
  readonly ask: Asking | undefined;
  /** What is shown. */
  readonly query: WrittenQuery;
  /** Ms between two looks; undefined never looks. */
  readonly every: number | undefined;
  /** When something was written from here, in ms since 1970: that is nobody else's. */
  readonly wroteAt: () => number;
}

interface Changed {
  readonly written: Asking['written'];
  readonly asked: WrittenQuery;
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
 * It looks while the page is seen, and begins anew with every question and whenever all is asked
 * anew.
 */
export function useChangedSince({ ask, query, every, wroteAt }: Watching): Date | undefined {
  const [changed, setChanged] = useState<Changed>();
  const written = ask?.written;
  const reads = readBy(query);
  const asked = useSame(reads, JSON.stringify(printParameters(reads)));
  useEffect(() => {
    if (written === undefined || every === undefined) return undefined;
    const gone = new AbortController();
    const { signal } = gone;
    const look = (): Promise<string | null> => written(asked, signal);
    const onChange = (since: Date): void => setChanged({ written, asked, since });
    looking.ask().then(
      ({ lookForWrites }) => lookForWrites({ look, isRefused, every, wroteAt, onChange, signal }),
      // Where the script does not come, nothing is told of others; the rows are what they were.
      () => undefined,
    );
    return () => gone.abort();
  }, [written, every, asked, wroteAt]);
  return changed?.written === written && changed?.asked === asked ? changed.since : undefined;
}
