import type { Value } from '@ephoros/client';
import { valueLabelOf, type ColumnDescription } from '@ephoros/core/schema';
import { useEffect, useRef, useState, type KeyboardEvent, type ReactElement } from 'react';
import type { FullReader } from '../format/value.ts';
import type { EditingMessages } from '../messages/editing-messages.ts';
import { editorKind, textToEdit, valueTyped } from './value-text.ts';

/** Where one goes from a cell. */
export type Way = 'stay' | 'down' | 'up' | 'next' | 'previous';

export interface CellEditorProps {
  readonly column: ColumnDescription;
  readonly value: Value;
  /** What was typed to begin with, in place of the value. */
  readonly typed?: string | undefined;
  readonly reader: FullReader;
  readonly messages: EditingMessages;
  /** Takes a value; `way` is where to go then. */
  readonly commit: (value: Value, way: Way) => void;
  readonly cancel: () => void;
  /** Whether what was typed is taken as well where the field leaves the page, as its row is scrolled away. */
  readonly inRow?: boolean;
}

const inputTypes = { date: 'date', moment: 'datetime-local' } as const;

/** The field of a cell, as its type wants it. What is typed is a draft as soon as one leaves it. */
export function CellEditor(props: CellEditorProps): ReactElement {
  const { column, value, typed, reader, messages, commit, cancel, inRow = false } = props;
  const kind = editorKind(column);
  const before = textToEdit(value, column, reader.timeZone);
  const [text, setText] = useState(typed ?? before);
  const field = useRef<HTMLInputElement & HTMLTextAreaElement & HTMLSelectElement>(null);
  const left = useRef(false);
  useEffect(() => {
    const { current } = field;
    current?.focus({ preventScroll: true });
    if (typed !== undefined) {
      // A field of several lines begins in front of what it holds.
      if (current instanceof HTMLTextAreaElement) {
        current.setSelectionRange(typed.length, typed.length);
      }
    } else if (current !== null && 'select' in current) current.select();
  }, [typed]);
  const leave = (way: Way): void => {
    if (left.current) return;
    left.current = true;
    // What was not touched keeps what its field cannot show, such as parts of a second.
    if (text === before) commit(value, way);
    else commit(valueTyped(text, column, reader.timeZone), way);
  };
  useEffect(() => {
    const { current } = field;
    return () => {
      if (inRow && current?.isConnected === false) leave('stay');
    };
  });
  const onKeyDown = (event: KeyboardEvent): void => {
    const long = kind === 'text' || kind === 'json';
    if (event.key === 'Escape') {
      left.current = true;
      cancel();
    } else if (event.key === 'Enter' && !(long && (event.altKey || event.shiftKey))) {
      leave(event.shiftKey ? 'up' : 'down');
    } else if (event.key === 'Tab') leave(event.shiftKey ? 'previous' : 'next');
    else {
      event.stopPropagation();
      return;
    }
    event.preventDefault();
    event.stopPropagation();
  };
  const common = {
    ref: field,
    className: 'eph-edit',
    'aria-label': messages.edit(column.label),
    value: text,
    onChange: ({ target }: { target: { value: string } }) => setText(target.value),
    onKeyDown,
    onBlur: () => leave('stay'),
    // The grid does not take what is done in the field.
    onMouseDown: stop,
    onDoubleClick: stop,
    onContextMenu: stop,
  };
  switch (kind) {
    case 'choice':
      return (
        <select {...common}>
          {(column.nullable || text === '') && <option value="">{messages.missing}</option>}
          {choicesOf(column, reader).map(([one, label]) => (
            <option key={one} value={one}>
              {label}
            </option>
          ))}
        </select>
      );
    case 'text':
    case 'json':
      return <textarea {...common} rows={Math.min(8, text.split('\n').length)} dir="auto" />;
    case 'date':
    case 'moment':
      return <input {...common} type={inputTypes[kind]} step={kind === 'moment' ? 1 : undefined} />;
    case 'number':
      return <input {...common} inputMode="decimal" dir="ltr" />;
    case 'line':
    case 'list':
    case 'duration':
      return <input {...common} dir="auto" />;
    default:
      throw new Error(`no field for ${JSON.stringify(kind satisfies never)}`);
  }
}

function stop(event: { readonly stopPropagation: () => void }): void {
  event.stopPropagation();
}

function choicesOf(
  column: ColumnDescription,
  { messages }: FullReader,
): readonly (readonly [string, string])[] {
  if (column.type.kind === 'boolean') {
    return [
      ['true', messages.yes],
      ['false', messages.no],
    ];
  }
  const values = column.type.kind === 'enum' ? column.type.values : [];
  return values.map((one) => [one, valueLabelOf(one, column) ?? one]);
}
