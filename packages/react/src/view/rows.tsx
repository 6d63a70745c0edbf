import type { Row } from '@ephoros/client';
import { sortedBy, type Density } from '@ephoros/core/view';
import { useMemo, type KeyboardEvent, type ReactElement } from 'react';
import { noteInstead } from '../parts/notes.tsx';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import type { Drawn } from '../records/use-records.ts';
import { RecordTable } from '../table/record-table.tsx';
import { isOutline, rowAt } from '../table/row-at.ts';
import { KeptOpen, KeptPlace } from './kept.tsx';
import { useSheet } from './sheet-context.ts';
import { useViewRuler } from './use-view-ruler.ts';

/** How much higher or lower than usual a row is, in px. */
const heights: Readonly<Record<Density, number>> = { compact: -8, normal: 0, roomy: 10 };

/** The rows of the view, or its groups; what stands in their place where there are none. */
export function Rows(): ReactElement {
  const { drawn, visible, setVisible, handle, label, rowHeight, selectable, ruler, onActivate } =
    useSheet();
  const model = useModel();
  const records = useRowsOf();
  const { view, change, reading, source, selection, total } = records;
  const grouped = isOutline(source);
  const scrolled = reading === 'scroll' && !grouped;
  const strip = useViewRuler({ records, reader: model.reader, wanted: ruler && scrolled });
  const { from } = records.window;
  const { size } = records.pager;
  const range = useMemo(
    () => (scrolled || grouped ? undefined : { from, to: from + size }),
    [scrolled, grouped, from, size],
  );
  const onRowKey = (key: string, row: Row, event: KeyboardEvent): boolean => {
    if (selectable && key === ' ') selection.toggle(row);
    else if (selectable && key === 'a' && (event.ctrlKey || event.metaKey))
      selection.toggleWindow();
    else if (key === 'Enter' && onActivate !== undefined) onActivate(row);
    else return false;
    return true;
  };
  const height = rowHeight + heights[view.density ?? 'normal'];
  const begin = scrolled && view.place?.kind === 'offset' ? view.place.offset : 0;
  return (
    <div
      className="eph-middle"
      onDoubleClick={({ target }) => {
        const row = onActivate && rowUnder(target, source);
        if (row !== undefined) onActivate?.(row);
      }}
    >
      <RecordTable
        // Rows of another height are another sheet, which begins where the view is.
        key={height}
        source={source}
        columns={drawn.columns}
        label={label}
        sort={records.sort}
        onSort={(name, add) => change((last) => sortedBy(last, name, add, model.table))}
        onResize={(name, width) =>
          change((last) => ({ ...last, widths: { ...last.widths, [name]: width } }), {
            passing: true,
          })
        }
        onVisibleRowsChange={setVisible}
        onRowKey={onRowKey}
        instead={noteInstead(records, model)}
        handle={handle}
        rowHeight={height}
        {...(strip === undefined ? {} : { ruler: strip })}
        {...(selectable ? { isSelected: selection.has } : {})}
        {...(range === undefined ? { startRow: begin } : { range })}
      />
      {scrolled && <KeptPlace visible={visible} known={total !== undefined} />}
      {grouped && <KeptOpen source={source} />}
    </div>
  );
}

/** The row that an element lies in. */
function rowUnder(target: EventTarget, source: Drawn['source']): Row | undefined {
  const index = (target as Element).closest('.eph-row')?.getAttribute('aria-rowindex');
  // Counted from 1, behind the header.
  const position = Number(index ?? 0) - 2;
  if (position < 0) return undefined;
  return rowAt(source, position);
}
