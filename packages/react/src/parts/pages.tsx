import { pageNumbers } from '@ephoros/core/window';
import type { ReactElement } from 'react';
import type { Pager } from '../records/pager.ts';
import { Jump } from './jump.tsx';
import { useCount, useModel } from './table-context.ts';

/** First, previous, a few numbers, next, last, and a way to any page. */
export function Pages({ page, count, goTo, hasNext, hasPrevious }: Pager): ReactElement {
  const { messages } = useModel().reader;
  const written = useCount();
  // Of an open end the pages up to this one are known.
  const numbers = pageNumbers(page, count ?? page);
  const step = (label: string, to: number, possible: boolean): ReactElement => (
    <button type="button" disabled={!possible} onClick={() => goTo(to)}>
      {label}
    </button>
  );
  return (
    <nav className="eph-pages" aria-label={messages.pages}>
      {step(messages.firstPage, 1, hasPrevious)}
      {step(messages.previousPage, page - 1, hasPrevious)}
      <ol className="eph-numbers">
        {numbers.map((number, index) =>
          number === null ? (
            <li key={`gap ${index}`} aria-hidden="true">
              …
            </li>
          ) : (
            <li key={number}>
              <button
                type="button"
                aria-label={messages.page(written(number), undefined)}
                aria-current={number === page ? 'page' : undefined}
                onClick={() => goTo(number)}
              >
                {written(number)}
              </button>
            </li>
          ),
        )}
      </ol>
      {step(messages.nextPage, page + 1, hasNext)}
      {count !== undefined && step(messages.lastPage, count, hasNext)}
      <Jump label={messages.toPage} most={count} go={goTo} />
    </nav>
  );
}
