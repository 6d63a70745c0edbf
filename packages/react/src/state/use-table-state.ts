import { useCallback, useLayoutEffect, useRef, useState } from 'react';
import { initialState, type TableState } from './table-state.ts';

export interface StateOptions {
  /** What is given here is kept by whoever gives it, and follows `onStateChange`. */
  readonly state?: Partial<TableState> | undefined;
  /** What the table begins with. */
  readonly defaultState?: Partial<TableState> | undefined;
  /** Told of every change: the whole state as it shall be, and which parts differ. */
  readonly onStateChange?:
    ((state: TableState, changed: readonly (keyof TableState)[]) => void) | undefined;
}

/** Changes parts of the state. */
export type ChangeState = (
  change: Partial<TableState> | ((state: TableState) => Partial<TableState>),
) => void;

/** The state of a table, parts of which may be somebody else's. */
export function useTableState(options: StateOptions): readonly [TableState, ChangeState] {
  const { state: given, defaultState, onStateChange } = options;
  const [own, setOwn] = useState<TableState>(() => ({ ...initialState, ...defaultState }));
  const state = given === undefined ? own : { ...own, ...given };
  // Changes made between two drawings add up.
  const latest = useRef({ state, given, onStateChange });
  useLayoutEffect(() => {
    latest.current = { state, given, onStateChange };
  });
  const change = useCallback<ChangeState>((asked) => {
    const { state: before, given: controlled, onStateChange: tell } = latest.current;
    const parts = typeof asked === 'function' ? asked(before) : asked;
    const names = (Object.keys(parts) as (keyof TableState)[]).filter(
      (name) => !Object.is(before[name], parts[name]),
    );
    if (names.length === 0) return;
    const after = { ...before, ...parts };
    const ownParts = Object.fromEntries(
      Object.entries(parts).filter(
        ([name]) => controlled?.[name as keyof TableState] === undefined,
      ),
    );
    latest.current = { ...latest.current, state: { ...before, ...ownParts } };
    setOwn((last) => ({ ...last, ...ownParts }));
    tell?.(after, names);
  }, []);
  return [state, change];
}
