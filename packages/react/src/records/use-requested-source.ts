import {
  printParameters,
  remoteRows,
  unanswered,
  type OutlineSource,
  type OutlineSourceOptions,
  type RowSource,
  type SourceState,
  type WrittenQuery,
} from '@ephoros/client';
import { rowsPart } from '@ephoros/core/query';
import type { OpenGroup, Reading } from '@ephoros/core/view';
import { useMemo, useState } from 'react';
import { useLater } from '../later.ts';
import { outlines } from '../outline/loaded.ts';
import { useClosedSource } from '../use-closed-source.ts';
import { useSame } from '../use-same.ts';
import type { Described } from './use-described.ts';
import type { RequestClient } from './request-client.ts';
import { queryTextOf, scrollBlock } from './requested-view.ts';
import type { FirstRows } from './first-rows.ts';

interface Asker {
  readonly client: RequestClient | undefined;
  readonly table: string | undefined;
  readonly from: ((query: WrittenQuery) => RowSource<object>) | undefined;
  readonly described: Described;
}

interface Requested {
  readonly query: WrittenQuery;
  readonly reading: Reading;
  /** Rows of a page. */
  readonly size: number;
  /** Groups to be open at first. */
  readonly open: readonly OpenGroup[] | undefined;
  /** A block that is there already. */
  readonly first: FirstRows['block'];
}

/** The outline that was shown last: another one of the same groups has the same ones open. */
class LastOutline {
  private last: { readonly groups: string; readonly source: OutlineSource } | undefined;

  openGroups(groups: string): readonly OpenGroup[] | undefined {
    return this.last?.groups === groups ? this.last.source.openGroups() : undefined;
  }

  keep(groups: string, source: OutlineSource): OutlineSource {
    this.last = { groups, source };
    return source;
  }
}

/**
 * The source for a question: the same one as long as the query is the same, however often it is put
 * together. Sorted or summed otherwise, the same groups are open; `open` is their beginning only.
 */
export function useRequestedSource(
  { client, table, from, described }: Asker,
  { query, reading, size, open = none, first: given }: Requested,
): RowSource | OutlineSource {
  const { table: description, error, retry } = described;
  const grouped = (query.group ?? []).length > 0;
  const paged = reading === 'pages' && !grouped;
  const blockSize = paged ? size : scrollBlock;
  const request = grouped ? query : rowsPart(query);
  const groups = JSON.stringify([table, printParameters({ group: query.group ?? [] })]);
  const queryText = JSON.stringify([
    from !== undefined,
    printParameters(request),
    paged,
    blockSize,
  ]);
  const same = useSame({ query: request, paged, blockSize, from, groups, open }, queryText);
  const first = useOnce(given, queryTextOf(request), blockSize);
  const part = useLater(outlines, grouped && from === undefined);
  const makeOutline = part.state === 'ready' ? part.result.outlineSource : undefined;
  const lost = part.state === 'failed' ? part.error : undefined;
  const loadAgain = part.state === 'failed' ? part.retry : undefined;
  const [lastOutline] = useState(() => new LastOutline());
  const source = useMemo(() => {
    const { query: wanted, paged: byPage, blockSize: block, from: make } = same;
    // Rows of a program's own interface are read by the names of their columns, as any.
    if (make !== undefined) return make(wanted) as RowSource;
    if (client === undefined || table === undefined) return without(nowhere, retry);
    if (description === undefined) return without(error, retry);
    const { key } = description;
    const fetchRows: RequestedRows = (window, signal, onProgress) =>
      client.rows(table, window, signal, onProgress);
    if ((wanted.group ?? []).length === 0) {
      // A page is read, not scrolled past.
      const ahead = byPage ? 0 : 1;
      const options = { keyed: key.length > 0, key, blockSize: block, ahead, first };
      return remoteRows({ ...options, query: wanted, request: fetchRows });
    }
    if (makeOutline === undefined) return without(lost, loadAgain ?? retry);
    const outline = makeOutline({
      query: wanted,
      keyed: key.length > 0,
      open: lastOutline.openGroups(same.groups) ?? same.open,
      fetchRows,
      fetchGroups: (window, signal, reportProgress) =>
        client.groups(table, window, signal, reportProgress),
    });
    return lastOutline.keep(same.groups, outline);
  }, [
    client,
    table,
    description,
    same,
    error,
    retry,
    lastOutline,
    first,
    makeOutline,
    lost,
    loadAgain,
  ]);
  useClosedSource(source);
  return source;
}

/** The block that is there already, until another one is requested: what comes later is requested. */
function useOnce(given: FirstRows['block'], query: string, size: number): FirstRows['block'] {
  const [first, setFirst] = useState(given);
  const fits = first?.query === query && first.size === size;
  if (first !== undefined && !fits) setFirst(undefined);
  return fits ? first : undefined;
}

type RequestedRows = OutlineSourceOptions['fetchRows'];

const none: readonly OpenGroup[] = [];

const nowhere = new Error('Nobody says where they are: give a client and a table, or a source.');

/** A source that has nothing, or nothing but an error. */
function without(error: Error | undefined, retry: () => void): RowSource {
  const state: SourceState =
    error === undefined ? unanswered : { ...unanswered, status: 'failed', error };
  return {
    state: () => state,
    row: () => undefined,
    setVisibleRows: () => undefined,
    subscribe: () => () => undefined,
    retry,
    refresh: retry,
    close: () => undefined,
  };
}
