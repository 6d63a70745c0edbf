import type { Row } from '@ephoros/client';
import { useCallback, useLayoutEffect, useMemo, useRef, useState } from 'react';

export interface SelectionOptions {
  /** Keys of the selected rows, where somebody else keeps them; as `Selection.keyOf` writes them. */
  readonly selected?: readonly string[] | undefined;
  /** Told of every change of the selection. */
  readonly onSelectedChange?: ((keys: readonly string[]) => void) | undefined;
}

/** The rows that are selected, by their keys, wherever they lie. */
export interface Selection {
  /** Keys, as `keyOf` writes them. */
  readonly keys: readonly string[];
  /** What tells a row apart; undefined where the table has no key. */
  readonly keyOf: (row: object) => string | undefined;
  readonly has: (row: object) => boolean;
  readonly toggle: (row: object) => void;
  /** Of the rows in the window. */
  readonly inWindow: 'none' | 'some' | 'all';
  /** Selects all rows in the window; none of them where all are selected. */
  readonly toggleWindow: () => void;
  readonly clear: () => void;
}

/** Selects rows of a window; those of other windows stay selected. */
export function useSelection(
  key: readonly string[],
  { selected: given, onSelectedChange }: SelectionOptions,
  rows: readonly (Row | undefined)[],
): Selection {
  const [own, setOwn] = useState<readonly string[]>([]);
  const selected = given ?? own;
  const names = key.join('\n');
  const keyOf = useCallback(
    (row: object) => {
      const held = row as Row;
      const values = names === '' ? [] : names.split('\n').map((name) => held[name] ?? null);
      if (values.length === 0 || values.includes(null)) return undefined;
      return values.map((value) => encodeURIComponent(value as string | number)).join(',');
    },
    [names],
  );
  const keys = useMemo(() => new Set(selected), [selected]);
  const has = useCallback((row: object) => keys.has(keyOf(row) ?? ''), [keys, keyOf]);
  const there = rows.flatMap((row) => (row === undefined ? [] : (keyOf(row) ?? [])));
  const some = there.filter((one) => keys.has(one)).length;
  const inWindow: Selection['inWindow'] =
    some === 0 ? 'none' : some === there.length ? 'all' : 'some';
  // Whoever keeps a function means the window and the selection of the moment.
  const latest = useRef({ there, inWindow, selected, onSelectedChange });
  useLayoutEffect(() => {
    latest.current = { there, inWindow, selected, onSelectedChange };
  });
  const change = useCallback((make: (last: readonly string[]) => readonly string[]) => {
    const next = make(latest.current.selected);
    latest.current = { ...latest.current, selected: next };
    setOwn(next);
    latest.current.onSelectedChange?.(next);
  }, []);
  return {
    keys: selected,
    keyOf,
    has,
    toggle: useCallback(
      (row: object) => {
        const key = keyOf(row);
        if (key === undefined) return;
        change((last) => (last.includes(key) ? last.filter((one) => one !== key) : [...last, key]));
      },
      [keyOf, change],
    ),
    inWindow,
    toggleWindow: useCallback(
      () =>
        change((last) => {
          const { there: shown, inWindow: how } = latest.current;
          const others = last.filter((one) => !shown.includes(one));
          return how === 'all' ? others : [...others, ...shown];
        }),
      [change],
    ),
    clear: useCallback(() => change(() => []), [change]),
  };
}
