import type { LiveChanges, RowWatcher, WatchedRows } from '@ephoros/client/live';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import { useSheet } from '../view/sheet-context.ts';
import { lowered } from './lowered.ts';
import { differenceOf, snapshotOf, type Difference } from './row-snapshot.ts';

/** Watches rows of a table until a signal aborts, as `watchRows` of `@ephoros/client/live` does. */
export type Watch = (
  table: string,
  rows: WatchedRows,
  watcher: RowWatcher,
  signal: AbortSignal,
) => Promise<void>;

interface LiveRowsProps {
  readonly watch: Watch;
}

/** Ms that a cell is marked which has changed. */
const marked = 2_400;
/** Ms that it is stated how many rows came before. */
const noteTime = 12_000;

/** Over the end of the sheet: what comes and goes moves nothing. */
const lying = {
  position: 'absolute',
  insetInlineStart: '1.5rem',
  insetBlockEnd: '3.4rem',
  zIndex: 3,
  padding: '0.2rem 0.8rem',
  background: 'var(--eph-leaf)',
  border: '1px solid var(--eph-rule)',
} as const;

const words = {
  en: {
    before: (rows: string) => `${rows} came before these`,
    gone: (rows: string) => `${rows} before these are gone`,
  },
  ar: {
    before: (rows: string) => `جاء قبل هذه ${rows}`,
    gone: (rows: string) => `ذهب مما قبل هذه ${rows}`,
  },
} as const;

/**
 * A part of a table that shows what others write as they write it: what is in view is requested again where it is
 * concerned, what has changed is marked for a moment, and the place stays. Where the service does not know which rows
 * are written it does nothing: that others have written is reported by the table itself.
 */
export function LiveRows({ watch }: LiveRowsProps): ReactElement | null {
  const { table, match, reader } = useModel();
  const { source, refresh } = useRowsOf();
  const { visible, drawn, handle } = useSheet();
  const [before, setBefore] = useState(0);
  const mark = useRef<HTMLSpanElement>(null);
  const columns = useLatestValue(drawn.columns.map(({ name }) => name));
  const now = useLatestValue({ source, refresh, visible, table, watch });
  const { name } = table;
  const isKnown = table.key.length > 0;
  useEffect(() => {
    if (!isKnown || name === '') return undefined;
    let knowsRows = false;
    let ends = (): void => undefined;
    const renew = (isConcerned: (keys: ReadonlySet<string>) => boolean): void => {
      const { source: rows, refresh: again, visible: observed, table: described } = now.current;
      const { key } = described;
      const then = snapshotOf(rows, observed.get(), key);
      if (!isConcerned(new Set(then.keys()))) return;
      ends();
      const stop = rows.subscribe(() => {
        if (rows.state().status !== 'ready') return;
        ends();
        const difference = differenceOf(
          then,
          snapshotOf(rows, observed.get(), key),
          columns.current,
        );
        if (mark.current !== null) show(difference, mark.current, columns.current);
        if (difference.before === 0) return;
        setBefore(difference.before);
        handle.current?.shift?.(difference.before, (last) => lowered(last, difference.before));
      });
      ends = () => {
        stop();
        ends = () => undefined;
      };
      again();
    };
    const watcher: RowWatcher = {
      grade: (grade) => {
        knowsRows = grade !== 'counters';
      },
      changed: (changes) => renew((seenValues) => concerns(changes, seenValues)),
      written: () => {
        if (knowsRows) renew(() => true);
      },
    };
    const { filter, search } = match;
    const rows = { ...(filter !== undefined && { filter }), ...(search && { search }) };
    let watching: AbortController | undefined;
    // A page that nobody sees is not stored new, and takes none of the few connections of a browser.
    const turn = (): void => {
      const isVisible = document.visibilityState === 'visible';
      if (isVisible === (watching !== undefined)) return;
      watching?.abort();
      watching = isVisible ? new AbortController() : undefined;
      if (watching === undefined) return;
      if (knowsRows) renew(() => true);
      now.current.watch(name, rows, watcher, watching.signal).catch(() => {
        // What is refused here is refused where the rows are requested, and reported there.
      });
    };
    turn();
    document.addEventListener('visibilitychange', turn);
    return () => {
      document.removeEventListener('visibilitychange', turn);
      ends();
      watching?.abort();
    };
  }, [name, isKnown, match, now, columns, handle]);
  useEffect(() => {
    if (before === 0) return undefined;
    const timer = setTimeout(() => setBefore(0), noteTime);
    return () => clearTimeout(timer);
  }, [before]);
  const { messages, locale } = reader;
  const own = messages.language === 'ar' ? words.ar : words.en;
  const number = Math.abs(before).toLocaleString(locale);
  return (
    <span ref={mark} role="status" className="eph-aside" hidden={before === 0} style={lying}>
      {before === 0 ? '' : before > 0 ? own.before(number) : own.gone(number)}
    </span>
  );
}

/** New rows may stand anywhere; of others only those in view matter, and those that are gone. */
function concerns({ added, changed, removed }: LiveChanges, visible: ReadonlySet<string>): boolean {
  if (added.length > 0 || removed.length > 0 || visible.size === 0) return true;
  return changed.some((key) => visible.has(JSON.stringify(key)));
}

/** Marks cells for a moment. They are found by their places: what is drawn there may be drawn again meanwhile. */
function show({ cells }: Difference, anchor: HTMLElement, columns: readonly string[]): void {
  const table = anchor.closest('.eph-view');
  if (table === null) return;
  const ground = getComputedStyle(table).getPropertyValue('--eph-accent-ground');
  const still = matchMedia('(prefers-reduced-motion: reduce)').matches;
  requestAnimationFrame(() => {
    for (const [position, names] of cells) {
      const row = table.querySelector(`[role=row][aria-rowindex="${position + 2}"]`);
      for (const name of names) {
        const at = columns.indexOf(name) + 1;
        const cell = row?.querySelector<HTMLElement>(`[role=gridcell][aria-colindex="${at}"]`);
        if (cell === null || cell === undefined) continue;
        cell.dataset.live = 'changed';
        const frames = { backgroundColor: [ground, still ? ground : 'transparent'] };
        const ended = cell.animate(frames, { duration: marked, easing: 'ease-in' }).finished;
        void ended.finally(() => delete cell.dataset.live).catch(() => undefined);
      }
    }
  });
}

/** What a value is by now, for what happens later. */
function useLatestValue<Value>(value: Value): { readonly current: Value } {
  const ref = useRef(value);
  useEffect(() => {
    ref.current = value;
  });
  return ref;
}
