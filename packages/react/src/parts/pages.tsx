import { pageSet } from '@ephoros/core/window';
import type { ReactElement } from 'react';
import type { Pager } from '../records/pager.ts';
import { Jump } from './jump.tsx';
import { useCount, useModel } from './table-context.ts';

/** First, previous, a set of numbers and the way to the sets next to it, next, last, and any page. */
export function Pages({ page, count, goTo, hasNext, hasPrevious }: Pager): ReactElement {
  const { reader, table } = useModel();
  const { messages } = reader;
  const written = useCount();
  // Of an open end the pages up to this one are known.
  const { pages, earlier, later } = pageSet(page, count ?? page);
  const step = (label: string, to: number, possible: boolean): ReactElement => (
    <button type="button" disabled={!possible} onClick={() => goTo(to)}>
      {label}
    </button>
  );
  const stepButton = (label: string, to: number | undefined): ReactElement | null =>
    to === undefined ? null : (
      <button type="button" aria-label={label} title={label} onClick={() => goTo(to)}>
        …
      </button>
    );
  return (
    <nav className="eph-pages" aria-label={`${messages.pages}: ${table.title}`}>
      {step(messages.firstPage, 1, hasPrevious)}
      {step(messages.previousPage, page - 1, hasPrevious)}
      {stepButton(messages.earlierPages, earlier)}
      <ol className="eph-numbers">
        {pages.map((number) => (
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
        ))}
      </ol>
      {stepButton(messages.laterPages, later)}
      {step(messages.nextPage, page + 1, hasNext)}
      {count !== undefined && step(messages.lastPage, count, hasNext)}
      <Jump label={messages.toPage} most={count} go={goTo} />
    </nav>
  );
}
