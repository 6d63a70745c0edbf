import type { Row } from '@ephoros/client';
import type { ReactElement, ReactNode } from 'react';
import { plainText } from '../format/value.ts';
import { RowBox } from '../parts/row-box.tsx';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import type { TableColumn } from '../table/column.ts';
import { useSheet } from './sheet-context.ts';

/** What stands in a cell; a placeholder while its row is on its way. */
export function renderedValue(column: TableColumn | undefined, row: Row | undefined): ReactNode {
  if (row === undefined) return <i className="eph-placeholder" />;
  const value = row[column?.name ?? ''] ?? null;
  return column?.render === undefined ? plainText(value) : column.render(value, row);
}

interface LabelProps {
  readonly column: TableColumn | undefined;
  readonly differs: boolean;
  readonly sort: (add: boolean) => void;
}

/** What a column is called; pressed, it sorts by it. */
export function Label({ column, differs, sort }: LabelProps): ReactElement {
  const { messages } = useModel().reader;
  const text = column?.label ?? '';
  const name = differs ? messages.editors.differs(text) : undefined;
  return column?.sortable === true ? (
    <button
      type="button"
      title={messages.sortHint(text)}
      aria-label={name}
      onClick={(event) => sort(event.shiftKey)}
    >
      {text}
    </button>
  ) : (
    <span aria-label={name}>{text}</span>
  );
}

/** What stands over a row: its box, its name, what opens it. */
export function Head({
  row,
  position,
}: {
  readonly row: Row | undefined;
  readonly position: number;
}): ReactElement {
  const { selectable, card, opened } = useSheet();
  const { selection } = useRowsOf();
  const { table, reader } = useModel();
  const { messages } = reader;
  const written = (position + 1).toLocaleString(reader.locale);
  if (row === undefined) return <span className="eph-aside">{written}</span>;
  const key = selection.keyOf(row);
  const label = table.label === undefined ? undefined : row[table.label];
  const called = label == null ? messages.row(written) : plainText(label);
  return (
    <>
      {selectable && (
        <RowBox
          label={messages.selectRow}
          checked={selection.has(row)}
          change={() => selection.toggle(row)}
          single={!selection.several}
        />
      )}
      {card !== false && key !== undefined ? (
        <button type="button" className="eph-related" onClick={() => opened.open(key, position)}>
          {called}
        </button>
      ) : (
        <span>{called}</span>
      )}
    </>
  );
}
