import { pageCount, pageNumbers } from '@ephoros/core/window';
import { useState, type ReactElement } from 'react';
import { reader } from '../service.ts';
import type { View } from './view-state.ts';

interface PagerProps {
  readonly view: View;
  readonly page: number;
  readonly size: number;
  readonly total: number;
}

/** First, previous, a few numbers, next, last, and a way to any page. */
export function Pager({ view, page, size, total }: PagerProps): ReactElement {
  const count = pageCount(total, size);
  const go = (to: number): void =>
    view.change({ page: to === 1 ? undefined : String(to), offset: undefined });
  return (
    <nav aria-label="Pages" className="flex items-baseline gap-4 tabular-nums">
      <Step label="first" to={1} disabled={page <= 1} go={go} />
      <Step label="previous" to={page - 1} disabled={page <= 1} go={go} />
      <ol className="flex items-baseline gap-3">
        {pageNumbers(page, count).map((number, index) =>
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
      <Step label="next" to={page + 1} disabled={page >= count} go={go} />
      <Step label="last" to={count} disabled={page >= count} go={go} />
      <Jump count={count} go={go} />
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

function Jump({ count, go }: { count: number; go: (page: number) => void }): ReactElement {
  const [text, setText] = useState('');
  return (
    <form
      className="flex items-baseline gap-1 text-faint"
      onSubmit={(event) => {
        event.preventDefault();
        const wanted = Number(text);
        if (!/^\d+$/.test(text) || wanted < 1) return;
        go(Math.min(count, wanted));
        setText('');
      }}
    >
      <label htmlFor="jump">to page</label>
      <input
        id="jump"
        className="field w-16 text-ink"
        inputMode="numeric"
        autoComplete="off"
        value={text}
        onChange={({ target }) => setText(target.value)}
      />
    </form>
  );
}
