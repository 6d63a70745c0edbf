import { typeName, type ColumnDescription } from '@ephoros/core/schema';
import { changed } from '@ephoros/core/view';
import type { ReactElement, ReactNode } from 'react';
import { useModel } from '../parts/table-context.ts';
import { widthWithin } from '../table/grip.tsx';
import { AggregateChoices } from './aggregate-choices.tsx';
import { useColumnActions } from './column-actions.ts';
import { ConditionEditor } from './condition-editor.tsx';
import { GroupWays } from './offers.tsx';
import { sortWays } from '../format/sort-ways.ts';

interface ColumnSheetProps {
  readonly name: string;
  readonly done: () => void;
}

/** What can be done with a column: its condition, groups and aggregates, its place. */
export function ColumnSheet({ name, done }: ColumnSheetProps): ReactElement | null {
  const { column: columnNamed, reader } = useModel();
  const column = columnNamed(name);
  if (column === undefined) return null;
  const { editors } = reader.messages;
  return (
    <>
      <h2 className="eph-sheet-title">{column.label}</h2>
      <p className="eph-aside">
        <code className="eph-code">{column.name}</code> · {typeName(column.type)}
        {column.comment !== undefined && ` · ${column.comment}`}
      </p>
      <ConditionEditor column={column} done={done} />
      {column.groupable && (
        <Section title={editors.groupBy}>
          <GroupWays column={column} done={done} />
        </Section>
      )}
      {column.aggregates.length > 0 && (
        <Section title={editors.madeOf}>
          <AggregateChoices column={column} />
        </Section>
      )}
      <Section title={editors.place}>
        <ColumnPlace column={column} done={done} />
      </Section>
    </>
  );
}

function Section({ title, children }: { title: string; children: ReactNode }): ReactElement {
  return (
    <details className="eph-section">
      <summary>{title}</summary>
      {children}
    </details>
  );
}

interface ColumnPlaceProps {
  readonly column: ColumnDescription;
  readonly done: () => void;
}

/** The order by a column, its place among the others, its width. */
function ColumnPlace({ column, done }: ColumnPlaceProps): ReactElement {
  const { change, widthOf, reader } = useModel();
  const { messages } = reader;
  const { name } = column;
  const { sortBy, sorted, pinned, pin, hide, moveBy, fit } = useColumnActions(name);
  const [ascending, descending] = sortWays(messages, column.type);
  const [earlier, later] = [moveBy(-1), moveBy(1)];
  const then = (action: () => void) => (): void => {
    action();
    done();
  };
  return (
    <div className="eph-actions-down">
      {column.sortable && (
        <>
          <button type="button" onClick={then(() => sortBy(false))}>
            {ascending}
          </button>
          <button type="button" onClick={then(() => sortBy(true))}>
            {descending}
          </button>
          {sorted && (
            <button type="button" onClick={then(() => sortBy(undefined))}>
              {messages.sortNot}
            </button>
          )}
        </>
      )}
      <button type="button" disabled={earlier === undefined} onClick={earlier}>
        {messages.earlier}
      </button>
      <button type="button" disabled={later === undefined} onClick={later}>
        {messages.later}
      </button>
      {pinned === undefined ? (
        <>
          <button type="button" onClick={() => pin('start')}>
            {messages.pin}
          </button>
          <button type="button" onClick={() => pin('end')}>
            {messages.pinEnd}
          </button>
        </>
      ) : (
        <button type="button" onClick={() => pin(undefined)}>
          {messages.unpin}
        </button>
      )}
      <button type="button" disabled={hide === undefined} onClick={hide && then(hide)}>
        {messages.hide}
      </button>
      <button type="button" onClick={fit}>
        {messages.fit}
      </button>
      <label className="eph-labelled">
        <span>{messages.width}</span>
        <input
          className="eph-field eph-short"
          type="number"
          step={10}
          value={widthOf(name)}
          onChange={({ target }) => {
            const width = widthWithin(Number(target.value), {});
            change((last) => changed(last, { widths: { ...last.widths, [name]: width } }), {
              passing: true,
            });
          }}
        />
      </label>
    </div>
  );
}
