import { pageCount, pageNumbers } from '@ephoros/core/window';
import type { ReactElement } from 'react';
import { reader } from '../service.ts';
import { Jump } from './jump.tsx';
import type { View } from './view-state.ts';

interface PagerProps {
  readonly view: View;
  readonly page: number;
  readonly size: number;
  /** Undefined where nobody counts: then there is no last page. */
  readonly total: number | undefined;
}

/** First, previous, a few numbers, next, last, and a way to any page. */
export function Pager({ view, page, size, total }: PagerProps): ReactElement {
  const count = total === undefined ? undefined : pageCount(total, size);
  // Of an open end the pages up to this one are known.
  const known = count ?? page;
  const go = (to: number): void =>
    view.change({ page: to === 1 ? undefined : String(to), offset: undefined });
  return (
    <nav aria-label="Pages" className="flex items-baseline gap-4 tabular-nums">
      <Step label="first" to={1} disabled={page <= 1} go={go} />
      <Step label="previous" to={page - 1} disabled={page <= 1} go={go} />
      <ol className="flex items-baseline gap-3">
        {pageNumbers(page, known).map((number, index) =>
          number === null ? (
            <li key={`gap ${index}`} aria-hidden="true" className="text-faint">
              …
            </li>
          ) : (
            <li key={number}>
              <button
                type="button"
                aria-label={`Page ${number}`}
                aria-current={number === page ? 'page' : undefined}
                className="cursor-pointer text-faint hover:text-amber aria-[current=page]:border-b-2 aria-[current=page]:border-amber aria-[current=page]:text-ink"
                onClick={() => go(number)}
              >
                {number.toLocaleString(reader.locale)}
              </button>
            </li>
          ),
        )}
      </ol>
      <Step label="next" to={page + 1} disabled={count !== undefined && page >= count} go={go} />
      {count !== undefined && <Step label="last" to={count} disabled={page >= count} go={go} />}
      <Jump label="to page" most={count} go={go} />
    </nav>
  );
}

interface StepProps {
  readonly label: string;
  readonly to: number;
  readonly disabled: boolean;
  readonly go: (page: number) => void;
}

function Step({ label, to, disabled, go }: StepProps): ReactElement {
  return (
    <button
      type="button"
      disabled={disabled}
      className="cursor-pointer hover:text-amber disabled:cursor-default disabled:text-faint disabled:opacity-50"
      onClick={() => go(to)}
    >
      {label}
    </button>
  );
}
