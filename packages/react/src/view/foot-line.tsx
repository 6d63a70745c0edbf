import { pageNumbers } from '@ephoros/core/window';
import { useSyncExternalStore, type ReactElement } from 'react';
import type { Records } from '../records/use-records.ts';
import { isOutline } from '../table/row-at.ts';
import type { SeenRows } from '../table/seen-rows.ts';
import { useWords } from '../words/use-words.ts';

interface FootLineProps {
  readonly records: Records;
  /** The rows that can be seen: drawn anew with them, and not the table around. */
  readonly seen: SeenRows;
  readonly paged: boolean;
  readonly locale: string;
}

/** What is shown of how much, the pages, and what is selected. */
export function FootLine({ records, seen, paged, locale }: FootLineProps): ReactElement {
  const words = useWords();
  const { rowState, selection, retry, kept } = records;
  const { total, totalKind, open, status, error } = rowState;
  const { first, last } = useSyncExternalStore(seen.subscribe, seen.get, seen.get);
  const written = (number: number): string => number.toLocaleString(locale);
  const all =
    total === undefined || open
      ? undefined
      : totalKind === 'exact'
        ? written(total)
        : words.nearly(written(total));
  const count = isOutline(records.source) ? words.lines : words.rows;
  const said =
    last < first || total === undefined || total === 0
      ? ''
      : count(written(first + 1), written(last + 1), all);
  // Where there are no rows at all, it is said in their place.
  const trouble =
    total === undefined
      ? undefined
      : status === 'retrying'
        ? words.away
        : status === 'failed'
          ? error?.message
          : undefined;
  return (
    <div className="eph-line">
      <span role="status">{status === 'loading' && said === '' ? words.loading : said}</span>
      {kept?.where === 'kept' && said !== '' && (
        <span className="eph-aside">{words.kept(written(kept.border))}</span>
      )}
      {trouble !== undefined && (
        <span className="eph-trouble" role="alert">
          {trouble}{' '}
          <button type="button" onClick={retry}>
            {words.tryAgain}
          </button>
        </span>
      )}
      {selection.keys.length > 0 && (
        <span>
          {words.selected(selection.keys.length, written(selection.keys.length))}{' '}
          <button type="button" onClick={selection.clear}>
            {words.clearSelection}
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
  const words = useWords();
  return (
    <nav className="eph-pages" aria-label={words.pages}>
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
        {words.pageSize}
      </label>
      <button type="button" disabled={!hasPrevious} onClick={() => goTo(1)}>
        {words.firstPage}
      </button>
      <button type="button" disabled={!hasPrevious} onClick={() => goTo(page - 1)}>
        {words.previousPage}
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
              aria-label={words.page(written(number), undefined)}
              aria-current={number === page ? 'page' : undefined}
              onClick={() => goTo(number)}
            >
              {written(number)}
            </button>
          ),
        )}
      {count === undefined && <span>{words.page(written(page), undefined)}</span>}
      <button type="button" disabled={!hasNext} onClick={() => goTo(page + 1)}>
        {words.nextPage}
      </button>
      {count !== undefined && (
        <button type="button" disabled={!hasNext} onClick={() => goTo(count)}>
          {words.lastPage}
        </button>
      )}
    </nav>
  );
}
