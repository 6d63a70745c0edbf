import { useMemo } from 'react';
import type { Drawn } from '../records/use-records.ts';
import { isOutline } from '../table/row-at.ts';
import { cardRows, onePinned } from './card-rows.ts';
import type { DrawnColumns } from './use-columns.ts';

/** What a table draws, and of rows as cards how many lines each has. */
interface Narrowed {
  readonly drawn: DrawnColumns;
  readonly cardLines: number | undefined;
}

/** The columns as a narrow table draws them: of rows as cards, of an outline with one that stays. */
export function useNarrowed(
  isNarrow: boolean,
  { view, source, table, column }: Drawn,
  all: DrawnColumns,
): Narrowed {
  const grouped = isOutline(source);
  const applies = isNarrow && view.layout !== 'across';
  const { columns } = all;
  const narrowed = useMemo(() => {
    if (!applies) return { columns, lines: undefined };
    if (grouped) return { columns: onePinned(columns), lines: undefined };
    return cardRows(columns, table, column);
  }, [applies, grouped, columns, table, column]);
  return { drawn: { ...all, columns: narrowed.columns }, cardLines: narrowed.lines };
}
