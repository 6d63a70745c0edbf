import type { HistoryEntry } from '@ephoros/client';
import { plainColumn, printKey, type TableDescription } from '@ephoros/core/schema';
import { useCallback, useEffect, useState, type ReactElement } from 'react';
import { formatValue, type FullReader } from '../format/value.ts';
import type { EditingMessages } from '../messages/editing-messages.ts';
import type { RequestClient } from '../records/request-client.ts';

interface HistoryListProps {
  readonly client: RequestClient;
  readonly table: TableDescription;
  /** The address of a row; the history of the whole table without it. */
  readonly rowKey?: string;
  readonly reader: FullReader;
  readonly messages: EditingMessages;
  /** Something was undone: rows are to be read again. */
  readonly onUndone: () => void;
}

interface Read {
  readonly entries: readonly HistoryEntry[];
  readonly next: string | null;
}

const entriesAtOnce = 20;

/** Who changed what, and when, the newest first; each set of changes can be undone. */
export function HistoryList(props: HistoryListProps): ReactElement {
  const { client, table, rowKey, reader, messages: words, onUndone } = props;
  const { messages } = reader;
  const [read, setRead] = useState<Read>();
  const [error, setError] = useState<string>();
  const [readings, setReadings] = useState(0);
  const request = useCallback(
    async (after: string | undefined): Promise<Read> => {
      const options = { limit: entriesAtOnce, ...(after === undefined ? {} : { after }) };
      const { changes } = client;
      if (changes === undefined) return { entries: [], next: null };
      return changes.history(table.name, rowKey, options);
    },
    [client, table.name, rowKey],
  );
  const fail = useCallback(
    (thrown: unknown) =>
      setError(thrown instanceof Error ? messages.translate(thrown.message) : ''),
    [messages],
  );
  useEffect(() => {
    let isCurrent = true;
    request(undefined).then(
      (first) => isCurrent && setRead(first),
      (thrown: unknown) => isCurrent && fail(thrown),
    );
    return () => {
      isCurrent = false;
    };
  }, [request, fail, readings]);
  const more = (after: string): void => {
    request(after).then(
      ({ entries, next }) =>
        setRead((last) => ({ entries: [...(last?.entries ?? []), ...entries], next })),
      fail,
    );
  };
  return (
    <div className="eph-history">
      {error !== undefined && (
        <p role="alert" className="eph-trouble">
          {error}
        </p>
      )}
      {read === undefined && error === undefined && <p role="status">{messages.loading}</p>}
      {read?.entries.length === 0 && <p className="eph-aside">{words.noHistory}</p>}
      <ol>
        {read?.entries.map((entry, index) => (
          <Entry
            // A set may be about the same row several times.
            key={`${entry.set} ${index}`}
            {...props}
            entry={entry}
            isFirst={read.entries.findIndex(({ set }) => set === entry.set) === index}
            undone={() => {
              setReadings((last) => last + 1);
              onUndone();
            }}
          />
        ))}
      </ol>
      {typeof read?.next === 'string' && (
        <button type="button" className="eph-offer" onClick={() => more(read.next ?? '')}>
          {words.showMore}
        </button>
      )}
    </div>
  );
}

interface EntryProps extends HistoryListProps {
  readonly entry: HistoryEntry;
  /** Whether it is the first one of its set, which has the way to undo it. */
  readonly isFirst: boolean;
  readonly undone: () => void;
}

const time = plainColumn('at', { kind: 'timestamp', zone: true });

function Entry(props: EntryProps): ReactElement {
  const { entry, table, rowKey, reader, messages, client, isFirst, undone } = props;
  const { kind, rule, columns, before, after, who, set } = entry;
  const at = formatValue(entry.at, time, reader).text;
  const written = (name: string, values: HistoryEntry['before']): string => {
    const column = table.columns.find((one) => one.name === name);
    return column === undefined ? '' : formatValue(values?.[name] ?? null, column, reader).text;
  };
  const what = messages.historyKinds[kind];
  return (
    <li data-draft={kind === 'remove' ? 'struck' : kind === 'add' ? 'added' : 'changed'}>
      <p>
        <time dateTime={entry.at}>{at}</time> {who !== null && <strong>{who}</strong>} {what}
        {rowKey === undefined && <> {printKey(entry.key)}</>}
        {rule !== null && <span className="eph-aside"> {messages.byRule}</span>}
        {entry.undone && <span className="eph-aside"> {messages.wasUndone}</span>}
        {entry.undoes !== null && <span className="eph-aside"> {messages.undoes}</span>}{' '}
        {isFirst && !entry.undone && client.changes !== undefined && (
          <UndoSet {...props} set={set} undone={undone} />
        )}
      </p>
      {kind === 'change' && before !== null && (
        <dl>
          {columns.map((name) => (
            <div key={name}>
              <dt>{table.columns.find((one) => one.name === name)?.label ?? name}</dt>
              <dd>
                <del>{written(name, before)}</del> <ins>{written(name, after)}</ins>
              </dd>
            </div>
          ))}
        </dl>
      )}
    </li>
  );
}

/** Undoes a set of changes: of more than one change it says first how many they are. */
function UndoSet({
  client,
  set,
  messages,
  reader,
  undone,
}: EntryProps & { readonly set: string }): ReactElement {
  const [count, setCount] = useState<number>();
  const [error, setError] = useState<string>();
  const undo = async (dryRun: boolean): Promise<void> => {
    setError(undefined);
    try {
      const answer = await client.changes?.undo(set, { dryRun });
      const changes = answer?.outcomes.length ?? 0;
      if (!dryRun) undone();
      else if (changes > 1) setCount(changes);
      else await undo(false);
    } catch (thrown) {
      setError(thrown instanceof Error ? reader.messages.translate(thrown.message) : '');
    }
  };
  return (
    <>
      <button type="button" className="eph-offer" onClick={() => void undo(count === undefined)}>
        {count === undefined
          ? messages.undo
          : messages.undoChanges(count, count.toLocaleString(reader.locale))}
      </button>
      {error !== undefined && (
        <span role="alert" className="eph-trouble">
          {' '}
          {error}
        </span>
      )}
    </>
  );
}
