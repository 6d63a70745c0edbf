import { keyOfRow, type Row, type Value } from '@ephoros/client';
import { call, property, text as literal } from '@ephoros/core/expression';
import type { TableDescription } from '@ephoros/core/schema';
import { useCallback, useRef, useState, type KeyboardEvent, type ReactElement } from 'react';
import { Sheet } from '../editors/sheet.tsx';
import { useFinding } from '../editors/finder.tsx';
import { Unanswered } from '../editors/unanswered.tsx';
import { plainText } from '../format/value.ts';
import { useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import type { EditingMessages } from '../messages/editing-messages.ts';
import type { Way } from './cell-editor.tsx';
import type { Reference } from './references.ts';

interface ReferenceEditorProps {
  readonly reference: Reference;
  readonly label: string;
  readonly nullable: boolean;
  readonly messages: EditingMessages;
  /** Takes the row, or none, with what is shown of it next to. */
  readonly commit: (value: Value, way: Way, labels: Row) => void;
  readonly cancel: () => void;
}

const span = { start: 0, end: 0 };

/** The rows that a reference may lead to, by their names: found while one types, chosen by keys. */
export function ReferenceEditor(props: ReferenceEditorProps): ReactElement {
  const { reference, label, nullable, messages, commit, cancel } = props;
  const { step, other } = reference;
  const { request, reader } = useModel();
  const anchor = useRef<HTMLSpanElement>(null);
  const { containing, limit, more, finder } = useFinding();
  const [active, setActive] = useState(0);
  const names = namesOf(other);
  const [name = ''] = names;
  const others = request?.others;
  const query = useCallback(
    async (signal: AbortSignal) =>
      others?.(
        other.name,
        {
          columns: namesOf(other).map((one) => ({ name: one, span })),
          ...(containing === ''
            ? {}
            : {
                filter: call(
                  'contains',
                  call('casei', property(name)),
                  call('casei', literal(containing)),
                ),
              }),
          limit,
          total: 'none',
        },
        signal,
      ),
    [others, other, name, containing, limit],
  );
  const answer = useAnswer(query);
  const rows = answer.state === 'ready' ? (answer.result?.rows ?? []) : [];
  const choose = (row: Row | undefined, way: Way): void => {
    const [there = ''] = step.references;
    const labels = Object.fromEntries(
      names.map((one) => [`${step.name}.${one}`, row?.[one] ?? null]),
    );
    commit(row?.[there] ?? null, way, labels);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (by !== undefined) setActive(Math.max(0, Math.min(rows.length - 1, active + by)));
    else if (event.key === 'Enter' || event.key === 'Tab') {
      const row = rows[active];
      if (row !== undefined) choose(row, event.key === 'Enter' ? 'down' : 'next');
    } else {
      event.stopPropagation();
      return;
    }
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <span ref={anchor} className="eph-choosing">
      <Sheet anchor={anchor} label={messages.edit(label)} close={cancel}>
        <div className="eph-choices" onKeyDown={onKeyDown}>
          {finder(messages.seek)}
          <ul role="listbox" aria-label={label}>
            {nullable && (
              <li role="option" aria-selected={false}>
                <button
                  type="button"
                  className="eph-offer"
                  onClick={() => choose(undefined, 'stay')}
                >
                  {messages.missing}
                </button>
              </li>
            )}
            {rows.map((row, index) => (
              <li
                key={keyOfRow(row, other.key) ?? index}
                role="option"
                aria-selected={index === active}
              >
                <button type="button" className="eph-offer" onClick={() => choose(row, 'stay')}>
                  {nameIn(row, other, reader.messages.missing)}
                </button>
              </li>
            ))}
          </ul>
          {answer.state !== 'ready' && <Unanswered answer={answer} what={messages.seek} />}
          {answer.state === 'ready' && rows.length === 0 && (
            <p className="eph-aside">{messages.nothingFound}</p>
          )}
          {answer.state === 'ready' && answer.result?.next != null && (
            <button type="button" className="eph-offer" onClick={more}>
              {reader.messages.editors.further}
            </button>
          )}
        </div>
      </Sheet>
    </span>
  );
}

/** The name of its rows, and their key. */
function namesOf({ label, key }: TableDescription): readonly string[] {
  return [...new Set([...(label === undefined ? [] : [label]), ...key])];
}

function nameIn(row: Row, other: TableDescription, missing: string): string {
  const [name = ''] = namesOf(other);
  const value = row[name] ?? null;
  const key = keyOfRow(row, other.key) ?? '';
  return other.label === undefined
    ? key
    : `${value === null ? missing : plainText(value)} · ${key}`;
}
