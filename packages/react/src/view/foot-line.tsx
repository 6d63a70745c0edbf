import { pageNumbers } from '@ephoros/core/window';
import { useSyncExternalStore, type ReactElement } from 'react';
import type { Records } from '../records/use-records.ts';
import { isOutline } from '../table/row-at.ts';
import type { VisibleRows } from '../table/visible-rows.ts';
import { useMessages } from '../messages/use-messages.ts';

interface FootLineProps {
  readonly records: Records;
  /** The rows that can be visible: drawn anew with them, and not the table around. */
  readonly visible: VisibleRows;
  readonly paged: boolean;
  readonly locale: string;
}

/** What is shown of how much, the pages, and what is selected. */
export function FootLine({ records, visible, paged, locale }: FootLineProps): ReactElement {
  const messages = useMessages();
  const { total, totalKind, open, status, error, selection, retry, kept } = records;
  const { first, last } = useSyncExternalStore(visible.subscribe, visible.get, visible.get);
  const written = (number: number): string => number.toLocaleString(locale);
  const all =
    total === undefined || open
      ? undefined
      : totalKind === 'exact'
        ? written(total)
        : messages.nearly(written(total));
  const count = isOutline(records.source) ? messages.lines : messages.rows;
  const said =
    last < first || total === undefined || total === 0
      ? ''
      : count(written(first + 1), written(last + 1), all);
  // Where there are no rows at all, it is said in their place.
  const trouble =
    total === undefined
      ? undefined
      : status === 'retrying'
        ? messages.away
        : status === 'failed'
          ? error?.message
          : undefined;
  return (
    <div className="eph-line">
      <span role="status">{status === 'loading' && said === '' ? messages.loading : said}</span>
      {kept?.where === 'kept' && said !== '' && (
        <span className="eph-aside">{messages.kept(written(kept.maxRows))}</span>
      )}
      {trouble !== undefined && (
        <span className="eph-trouble" role="alert">
          {trouble}{' '}
          <button type="button" onClick={retry}>
            {messages.tryAgain}
          </button>
        </span>
      )}
      {selection.keys.length > 0 && (
        <span>
          {messages.selected(selection.keys.length, written(selection.keys.length))}{' '}
          <button type="button" onClick={selection.clear}>
            {messages.clearSelection}
          </button>
        </span>
      )}
      {paged && <Pages {...records.pager} written={written} />}
    </div>
  );
}

type PagesProps = Records['pager'] & { readonly written: (number: number) => string };

function Pages(props: PagesProps): ReactElement {
  const { page, count, size, sizes, goTo, setSize, hasNext, hasPrevious, written } = props;
  const messages = useMessages();
  return (
    <nav className="eph-pages" aria-label={messages.pages}>
      <label>
        <select value={size} onChange={({ target }) => setSize(Number(target.value))}>
          {[...new Set([...sizes, size])]
            .sort((one, other) => one - other)
            .map((one) => (
              <option key={one} value={one}>
                {written(one)}
              </option>
            ))}
        </select>{' '}
        {messages.pageSize}
      </label>
      <button type="button" disabled={!hasPrevious} onClick={() => goTo(1)}>
        {messages.firstPage}
      </button>
      <button type="button" disabled={!hasPrevious} onClick={() => goTo(page - 1)}>
        {messages.previousPage}
      </button>
      {count !== undefined &&
        pageNumbers(page, count).map((number, index) =>
          number === null ? (
            <span key={`gap ${index}`} aria-hidden="true">
              …
            </span>
          ) : (
            <button
              key={number}
              type="button"
              aria-label={messages.page(written(number), undefined)}
              aria-current={number === page ? 'page' : undefined}
              onClick={() => goTo(number)}
            >
              {written(number)}
            </button>
          ),
        )}
      {count === undefined && <span>{messages.page(written(page), undefined)}</span>}
      <button type="button" disabled={!hasNext} onClick={() => goTo(page + 1)}>
        {messages.nextPage}
      </button>
      {count !== undefined && (
        <button type="button" disabled={!hasNext} onClick={() => goTo(count)}>
          {messages.lastPage}
        </button>
      )}
    </nav>
  );
}
