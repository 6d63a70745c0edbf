import type { SourceState } from '@ephoros/client';
import type { CheckedQuery } from '@ephoros/core/check';
import { type VisibleRows } from '@ephoros/react';
import { useSyncExternalStore, type ReactElement } from 'react';
import { reader } from '../service.ts';
import { Jump } from './jump.tsx';
import { Pager } from './pager.tsx';
import { Trouble } from './trouble.tsx';
import type { View } from './view-state.ts';

interface RowsFooterProps {
  readonly view: View;
  readonly checked: CheckedQuery;
  readonly state: SourceState;
  /** What is in view of a continuous reading. */
  readonly seen: VisibleRows;
  /** Whether something stands in place of the rows that tells of failures already. */
  readonly quiet: boolean;
  readonly retry: () => void;
  readonly goTo: (row: number) => void;
}

/** Below the rows: which ones are in view, of how many; what went wrong; the way to others. */
export function RowsFooter(props: RowsFooterProps): ReactElement {
  const { view, checked, state, seen, quiet, retry, goTo } = props;
  const { total, open, status } = state;
  const { reading } = view;
  const size = checked.limit;
  const inView = useSyncExternalStore(seen.subscribe, seen.get);
  const shown = reading === 'pages' ? pageOf(checked, state) : inView;
  return (
    <footer className="flex flex-wrap items-baseline gap-x-8 gap-y-1 border-t border-rule px-6 py-2 text-sm">
      <span data-testid="position" aria-live="polite">
        {positionText(shown, state)}
      </span>
      {!quiet && <Trouble state={state} retry={retry} />}
      <span className="grow text-faint">
        {status === 'loading' && total !== undefined ? 'loading …' : ''}
      </span>
      {total !== undefined && reading === 'pages' && (
        <Pager
          view={view}
          page={Math.floor(checked.offset / size) + 1}
          size={size}
          total={open ? undefined : total}
        />
      )}
      {total !== undefined && total > 0 && reading === 'scroll' && (
        <Jump label="to row" most={open ? undefined : total} go={(row) => goTo(row - 1)} />
      )}
    </footer>
  );
}

function pageOf(
  { offset, limit }: CheckedQuery,
  { total = 0 }: SourceState,
): { first: number; last: number } {
  return { first: offset, last: Math.min(offset + limit, total) - 1 };
}

/** "rows 201–250 of 200,000" */
function positionText(
  { first, last }: { first: number; last: number },
  { total, totalKind, open }: SourceState,
): string {
  if (total === undefined || (open && total <= first)) return 'reading …';
  const say = (count: number): string => count.toLocaleString(reader.locale);
  if (total === 0 || last < first) return 'no rows';
  const end = Math.min(last, total - 1) + 1;
  if (open) return `rows ${say(first + 1)}–${say(end)}, more to come`;
  const about = totalKind === 'estimate' ? 'about ' : '';
  return `rows ${say(first + 1)}–${say(end)} of ${about}${say(total)}`;
}
