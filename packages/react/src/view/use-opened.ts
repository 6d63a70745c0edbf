import { keyOfRow } from '@ephoros/client';
import { useCallback, useMemo, useRef, useState, type RefObject } from 'react';
import type { Drawn } from '../records/use-records.ts';
import { rowAt } from '../table/row-at.ts';
import { useLatest } from '../use-latest.ts';

/** Which row of a table is open. */
export interface OpenedOptions {
  /** The open row, where somebody else keeps it: its key as its address has it. */
  readonly openRow?: string | undefined;
  /** Called with the row that is opened, or with undefined. */
  readonly onOpenRow?: ((key: string | undefined) => void) | undefined;
}

export interface Opened {
  readonly key: string | undefined;
  /** Where it was opened, counted from 0; it may have moved since. */
  readonly position: RefObject<number | undefined>;
  /** Where the row lies that is to be opened as soon as it is there. */
  readonly wanted: RefObject<number | undefined>;
  readonly open: (key: string | undefined, position?: number) => void;
}

/** The open row, in the table's own hands where nobody else keeps it. */
export function useOpened({ openRow, onOpenRow }: OpenedOptions): Opened {
  const [own, setOwn] = useState<string>();
  const position = useRef<number>(undefined);
  const wanted = useRef<number>(undefined);
  const notify = useLatest(onOpenRow);
  const open = useCallback(
    (key: string | undefined, at?: number) => {
      position.current = at;
      wanted.current = undefined;
      setOwn(key);
      notify(key);
    },
    [notify],
  );
  const key = onOpenRow === undefined ? own : openRow;
  return useMemo(() => ({ key, position, wanted, open }), [key, open]);
}

/** Where a row lies now, as far as that is in view; undefined where it is not. */
export function positionOf(
  key: string | undefined,
  last: number | undefined,
  { source, table, window: { from, to } }: Drawn,
): number | undefined {
  const isThere = (position: number): boolean => {
    const row = rowAt(source, position);
    return row !== undefined && keyOfRow(row, table.key) === key;
  };
  if (key === undefined) return undefined;
  if (last !== undefined && isThere(last)) return last;
  for (let position = from; position < to; position += 1) {
    if (isThere(position)) return position;
  }
  return undefined;
}
