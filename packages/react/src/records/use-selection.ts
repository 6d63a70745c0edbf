import type { Row } from '@ephoros/client';
import { useCallback, useLayoutEffect, useMemo, useRef } from 'react';
import type { ChangeState } from '../state/use-table-state.ts';

/** The rows that are selected, by their keys, wherever they lie. */
export interface Selection {
  /** Keys, as `keyOf` writes them. */
  readonly keys: readonly string[];
  /** What tells a row apart; undefined where the table has no key. */
  readonly keyOf: (row: Row) => string | undefined;
  readonly has: (row: Row) => boolean;
  readonly toggle: (row: Row) => void;
  /** Of the rows in the window. */
  readonly inWindow: 'none' | 'some' | 'all';
  /** Selects all rows in the window; none of them where all are selected. */
  readonly toggleWindow: () => void;
  readonly clear: () => void;
}

/** Selects rows of a window; those of other windows stay selected. */
export function useSelection(
  key: readonly string[],
  selected: readonly string[],
  rows: readonly (Row | undefined)[],
  change: ChangeState,
): Selection {
  const names = key.join('\n');
  const keyOf = useCallback(
    (row: Row) => {
      const values = names === '' ? [] : names.split('\n').map((name) => row[name] ?? null);
      if (values.length === 0 || values.includes(null)) return undefined;
      return values.map((value) => encodeURIComponent(value as string | number)).join(',');
    },
    [names],
  );
  const keys = useMemo(() => new Set(selected), [selected]);
  const has = useCallback((row: Row) => keys.has(keyOf(row) ?? ''), [keys, keyOf]);
  const there = rows.flatMap((row) => (row === undefined ? [] : (keyOf(row) ?? [])));
  const some = there.filter((one) => keys.has(one)).length;
  const inWindow: Selection['inWindow'] =
    some === 0 ? 'none' : some === there.length ? 'all' : 'some';
  // Whoever keeps the function means the window of the moment.
  const latest = useRef({ there, inWindow });
  useLayoutEffect(() => {
    latest.current = { there, inWindow };
  });
  return {
    keys: selected,
    keyOf,
    has,
    toggle: useCallback(
      (row: Row) => {
        const own = keyOf(row);
        if (own === undefined) return;
        change(({ selected: last }) => ({
          selected: last.includes(own) ? last.filter((one) => one !== own) : [...last, own],
        }));
      },
      [keyOf, change],
    ),
    inWindow,
    toggleWindow: useCallback(
      () =>
        change(({ selected: last }) => {
          const { there: own, inWindow: how } = latest.current;
          const others = last.filter((one) => !own.includes(one));
          return { selected: how === 'all' ? others : [...others, ...own] };
        }),
      [change],
    ),
    clear: useCallback(() => change({ selected: [] }), [change]),
  };
}
