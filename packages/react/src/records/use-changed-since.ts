import { printParameters, ServiceError, type WrittenQuery } from '@ephoros/client';
import { namesIn } from '@ephoros/core/view';
import { useEffect, useState } from 'react';
import { useSame } from '../use-same.ts';
import type { Asking } from './asked-client.ts';

/** Ms within which the database's counters may still tell of what was written just now. */
const late = 12_000;

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
    let mark: string | null | undefined;
    let since = new Date();
    let wanted: ReturnType<typeof setTimeout> | undefined;
    const look = async (): Promise<void> => {
      const before = new Date();
      const own = before.getTime() - wroteAt() < late;
      const now = await written(asked, gone.signal);
      if (mark === undefined || (own && now !== mark)) {
        mark = now;
        since = before;
      } else if (now !== mark) {
        setChanged({ written, asked, since });
        return;
      }
      // Where nobody can tell, nobody is asked again.
      if (now !== null) wanted = setTimeout(whenSeen, every);
    };
    const begin = (): void => {
      look().catch((thrown: unknown) => {
        // What is refused will stay so, as by a service that does not know the question.
        const isRefused = thrown instanceof ServiceError && thrown.kind === 'refused';
        if (!isRefused && !gone.signal.aborted) wanted = setTimeout(whenSeen, every);
      });
    };
    /** A page that nobody sees asks nothing until it is seen again. */
    const whenSeen = (): void => {
      if (document.visibilityState === 'visible') begin();
      else
        document.addEventListener('visibilitychange', whenSeen, {
          once: true,
          signal: gone.signal,
        });
    };
    begin();
    return () => {
      gone.abort();
      clearTimeout(wanted);
    };
  }, [written, every, asked, wroteAt]);
  return changed?.written === written && changed?.asked === asked ? changed.since : undefined;
}
