import { catalogOf, type Row } from '@ephoros/client';
import type { Problem } from '@ephoros/core/problem';
import type { ColumnDescription } from '@ephoros/core/schema';
import { useEffect } from 'react';
import type { RequestClient } from './request-client.ts';

interface Doubted {
  readonly client: RequestClient | undefined;
  readonly table: string | undefined;
  readonly columns: readonly ColumnDescription[];
  readonly rows: readonly (Row | undefined)[];
  readonly problems: readonly Problem[];
  readonly retry: () => void;
}

/** Ms before a description is read again that was read just now. */
const pause = 1_000;

/** Has a table described again where answers say that it is another one by now. */
export function useStaleSchema({ client, table, columns, rows, problems, retry }: Doubted): void {
  const row = rows.find((one) => one !== undefined);
  const gone = row !== undefined && columns.some(({ name }) => !(name in row));
  const refused = problems.some(({ code }) => code === 'unknown-column');
  const doubted = gone || refused;
  useEffect(() => {
    if (!doubted || client === undefined || table === undefined) return undefined;
    const timer = setTimeout(() => {
      if (catalogOf(client).invalidate(table)) retry();
    }, pause);
    return () => clearTimeout(timer);
  }, [doubted, client, table, retry]);
}
