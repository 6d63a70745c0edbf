import { useCallback, useMemo, useRef, useState, type RefObject } from 'react';
import { useLatest } from '../use-latest.ts';

/** Which row of a table is open. */
export interface OpenedOptions {
  /** The open row, where somebody else keeps it: its key as its address has it. */
  readonly openRow?: string | undefined;
  /** Told of the row that is opened, or of none. */
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
  const told = useLatest(onOpenRow);
  const open = useCallback(
    (key: string | undefined, at?: number) => {
      position.current = at;
      wanted.current = undefined;
      setOwn(key);
      told(key);
    },
    [told],
  );
  const key = onOpenRow === undefined ? own : openRow;
  return useMemo(() => ({ key, position, wanted, open }), [key, open]);
}
