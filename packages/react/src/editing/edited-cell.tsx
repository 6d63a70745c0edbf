import type { Row, Value } from '@ephoros/client';
import type { ColumnDescription } from '@ephoros/core/schema';
import type { ReactElement, ReactNode } from 'react';
import type { FullReader } from '../format/value.ts';
import type { EditingMessages } from '../messages/editing-messages.ts';
import { CellEditor, type Way } from './cell-editor.tsx';
import { ReferenceEditor } from './reference-editor.tsx';
import type { Reference } from './references.ts';

interface EditedCellProps {
  readonly written: ColumnDescription;
  /** What was typed to begin with. */
  readonly typed?: string | undefined;
  /** As it is now. */
  readonly row: Row;
  readonly reference: Reference | undefined;
  /** A field of somebody's own. */
  readonly own?: ((cell: OwnCell) => ReactNode) | undefined;
  readonly reader: FullReader;
  readonly messages: EditingMessages;
  readonly put: (column: string, value: Value, labels?: Row) => void;
  readonly end: (way: Way) => void;
}

interface OwnCell {
  readonly value: Value;
  readonly row: Row;
  readonly commit: (value: unknown) => void;
  readonly cancel: () => void;
}

/** The field of the cell that is being changed: one's own, rows to choose from, or that of its type. */
export function EditedCell(props: EditedCellProps): ReactElement {
  const { written, typed, row, reference, own, reader, messages, put, end } = props;
  const { name } = written;
  const value = row[name] ?? null;
  const cancel = (): void => end('stay');
  if (own !== undefined) {
    const commit = (next: unknown): void => {
      put(name, next as Value);
      end('stay');
    };
    return <span className="eph-own-editor">{own({ value, row, commit, cancel })}</span>;
  }
  if (reference !== undefined) {
    return (
      <ReferenceEditor
        reference={reference}
        label={written.label}
        nullable={written.nullable}
        messages={messages}
        cancel={cancel}
        commit={(next, way, labels) => {
          put(name, next, labels);
          end(way);
        }}
      />
    );
  }
  return (
    <CellEditor
      inRow
      column={written}
      value={value}
      typed={typed}
      reader={reader}
      messages={messages}
      cancel={cancel}
      commit={(next, way) => {
        put(name, next);
        end(way);
      }}
    />
  );
}
