import { keyParts, printKey } from '@ephoros/core/schema';
import { useId, type ReactElement } from 'react';
import { Unanswered } from '../editors/unanswered.tsx';
import { Later, useLater } from '../later.ts';
import type { CardContent } from './card-content.ts';

/** Loaded with the first history that is opened. */
const historyList = new Later(() => import('../editing/history-list.tsx'));

/** What was changed of the row, by whom and when, once that is opened. */
export function RowHistory(content: CardContent): ReactElement | null {
  const { client, read, reader, editing } = content;
  const { isOpen, setOpen } = content.history;
  const id = useId();
  const part = useLater(historyList, isOpen);
  if (editing === undefined || client.changes === undefined) return null;
  const { messages } = editing;
  return (
    <section className="eph-card-section" aria-labelledby={id}>
      <h3 id={id}>
        <button
          type="button"
          className="eph-offer"
          aria-expanded={isOpen}
          onClick={() => setOpen(!isOpen)}
        >
          {messages.history}
        </button>
      </h3>
      {isOpen && part.state !== 'ready' && (
        <Unanswered answer={part} what={reader.messages.loading} />
      )}
      {isOpen && part.state === 'ready' && (
        <part.result.HistoryList
          client={client}
          table={read.table}
          rowKey={printKey(keyParts(read.row, read.table.key))}
          reader={reader}
          messages={messages}
          onUndone={content.refresh}
        />
      )}
    </section>
  );
}
