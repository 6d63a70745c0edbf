import { chosenQuery, filterText, ServiceError, type Value } from '@ephoros/client';
import { printSearch } from '@ephoros/core/query';
import { useState, type ReactElement } from 'react';
import { formatValue } from '../format/value.ts';
import type { EditingMessages } from '../messages/editing-messages.ts';
import { useCount, useModel, useRowsOf } from '../parts/table-context.ts';
import { useCounted } from '../parts/use-counted.ts';
import type { RequestClient } from '../records/request-client.ts';
import { CellEditor } from './cell-editor.tsx';

interface SetSelectedProps {
  readonly client: RequestClient;
  readonly messages: EditingMessages;
  readonly close: () => void;
}

/** The same value for all selected rows, as many as there are stated to be: saved at once, not drafted. */
export function SetSelected({ client, messages, close }: SetSelectedProps): ReactElement {
  const { table, selection, request, refresh } = useRowsOf();
  const { reader, column: columnNamed } = useModel();
  const written = useCount();
  const counted = useCounted();
  const columns = table.columns.filter(({ writing }) => writing?.change === true);
  const [name, setName] = useState(columns[0]?.name ?? '');
  const [value, setValue] = useState<Value>();
  const [state, setState] = useState('typing');
  const column = columnNamed(name) ?? columns.find((one) => one.name === name);
  const { count = 0, countKind, chosen } = selection;
  const save = async (next: Value): Promise<void> => {
    setState('saving');
    try {
      const { filter, search } = chosenQuery(
        request === undefined ? chosen : await request.queryable(chosen),
      );
      const change = {
        kind: 'set' as const,
        filter: filter === undefined ? '' : filterText(filter),
        ...(search === undefined ? {} : { search: printSearch(search) }),
        count,
        values: { [name]: next },
      };
      await client.changes?.save([change], { table: table.name });
      refresh();
      close();
    } catch (thrown) {
      // The rows of a condition are counted again, so that as many as are there can be set.
      if (chosen.kind === 'matching') refresh();
      setState(describeCount(thrown, messages, written));
    }
  };
  return (
    <div className="eph-set">
      <label>
        {messages.setColumn}{' '}
        <select
          className="eph-field"
          value={name}
          onChange={({ target }) => {
            setName(target.value);
            setValue(undefined);
          }}
        >
          {columns.map((one) => (
            <option key={one.name} value={one.name}>
              {one.label}
            </option>
          ))}
        </select>
      </label>
      {column !== undefined && value === undefined && (
        <CellEditor
          key={name}
          column={column}
          value={null}
          reader={reader}
          messages={messages}
          commit={setValue}
          cancel={close}
        />
      )}
      {column !== undefined && value !== undefined && (
        <p>
          <strong>{formatValue(value, column, reader).text}</strong>{' '}
          <button
            type="button"
            className="eph-retry eph-save"
            disabled={state === 'saving' || countKind !== 'exact'}
            onClick={() => void save(value)}
          >
            {messages.setIn(count, counted(selection.count, countKind))}
          </button>
        </p>
      )}
      {state !== 'typing' && state !== 'saving' && (
        <p role="alert" className="eph-trouble">
          {state}
        </p>
      )}
    </div>
  );
}

/** Why it was not saved: how many rows there are by now, what is wrong with the value. */
function describeCount(
  thrown: unknown,
  messages: EditingMessages,
  written: (count: number) => string,
): string {
  if (thrown instanceof ServiceError) {
    const [outcome] = thrown.outcomes;
    if (outcome !== undefined && 'count' in outcome) {
      return messages.otherCount(outcome.count, written(outcome.count));
    }
    if (thrown.problems.length > 0) return thrown.problems.map(({ message }) => message).join(' ');
  }
  return thrown instanceof Error ? thrown.message : String(thrown);
}
