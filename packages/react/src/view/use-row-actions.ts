import type { Row } from '@ephoros/client';
import { useRef, type KeyboardEvent } from 'react';
import type { RangeEnd } from '../parts/select-range.ts';
import { useRowsOf } from '../parts/table-context.ts';
import type { RowPlace } from '../table/grid-keys.ts';
import { rowAt } from '../table/row-at.ts';
import { useSheet } from './sheet-context.ts';

/** What is done with rows, however they are drawn. */
export interface RowActions {
  /** From the row that was selected last to another one, where `ranged`; true where that was all. */
  readonly choose: (position: number, ranged: boolean) => boolean;
  /** A key was pressed on a cell of a row; true where that was all it did. */
  readonly onRowKey: (key: string, row: Row, event: KeyboardEvent, at: RowPlace) => boolean;
}

export function useRowActions(
  copyMarked: () => void,
  change?: (key: string, event: KeyboardEvent, column: string, position: number) => boolean,
): RowActions {
  const { selectable, single, setRefusal, card, opened, onActivate, onPress } = useSheet();
  const records = useRowsOf();
  const { source, selection } = records;
  const anchor = useRef<RangeEnd & { readonly source: unknown }>(undefined);
  const choose = (position: number, ranged: boolean): boolean => {
    const last = ranged ? anchor.current : undefined;
    const row = rowAt(source, position);
    const end = { position, key: row && selection.keyOf(row) };
    anchor.current = { source, ...end };
    // In another order the row that was selected last lies elsewhere.
    if (last?.source !== source || single) return false;
    void import('../parts/selection-line.tsx')
      .then(({ selectRange }) => selectRange(records, last, end))
      .then(setRefusal, setRefusal);
    return true;
  };
  const onRowKey: RowActions['onRowKey'] = (key, row, event, { column, position }) => {
    const whole = event.ctrlKey || event.metaKey;
    const own = selection.keyOf(row);
    if (change?.(key, event, column, position) === true) return true;
    if (selectable && key === ' ') {
      if (!choose(position, event.shiftKey)) selection.toggle(row);
    } else if (selectable && key === 'a' && whole) selection.toggleWindow();
    else if (key === 'c' && whole) copyMarked();
    else if (key === 'Enter' && onActivate !== undefined) onActivate(row);
    else if (key === 'Enter' && card !== false && own !== undefined) opened.open(own, position);
    else if (key === 'Enter' && onPress !== undefined) onPress(row, { column, event });
    else return false;
    return true;
  };
  return { choose, onRowKey };
}
