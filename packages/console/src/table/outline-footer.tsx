import type { OutlineSource, SourceState } from '@ephoros/client';
import { type VisibleRows } from '@ephoros/react';
import { useSyncExternalStore, type ReactElement } from 'react';
import { reader } from '../service.ts';
import { Trouble } from './trouble.tsx';

interface OutlineFooterProps {
  readonly state: SourceState;
  readonly seen: VisibleRows;
  readonly source: OutlineSource;
  /** Whether something stands in place of the lines that tells of failures already. */
  readonly quiet: boolean;
}

/** Below the outline: which lines are in view, of how many, and what went wrong. */
export function OutlineFooter({ state, seen, source, quiet }: OutlineFooterProps): ReactElement {
  const { first, last } = useSyncExternalStore(seen.subscribe, seen.get);
  const { total, status } = state;
  const say = (count: number): string => count.toLocaleString(reader.locale);
  const end = Math.min(last, (total ?? 0) - 1) + 1;
  return (
    <footer className="flex flex-wrap items-baseline gap-x-8 gap-y-1 border-t border-rule px-6 py-2 text-sm">
      <span data-testid="position" aria-live="polite">
        {total === undefined
          ? 'reading …'
          : total === 0
            ? 'no lines'
            : `lines ${say(first + 1)}–${say(end)} of ${say(total)}`}
      </span>
      {!quiet && <Trouble state={state} retry={source.retry} />}
      <span className="grow text-faint">
        {status === 'loading' && total !== undefined ? 'loading …' : ''}
      </span>
    </footer>
  );
}
