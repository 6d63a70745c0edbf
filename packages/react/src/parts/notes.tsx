import { ServiceError } from '@ephoros/client';
import type { ReactElement, ReactNode } from 'react';
import { Later, useLater } from '../later.ts';
import { useMessages } from '../messages/use-messages.ts';
import type { Drawn } from '../records/use-records.ts';
import { Countdown } from './countdown.tsx';
import { looks } from './appearances.ts';
import { useModel, type TableModel } from './table-context.ts';

interface FailureNoteProps {
  readonly error: Error;
  readonly retry?: (() => void) | undefined;
  /** When it is tried again by itself, in ms since 1970. */
  readonly retryAt?: number | undefined;
}

/** Says why something could not be had, with a way to try again. */
export function FailureNote({ error, retry, retryAt }: FailureNoteProps): ReactElement {
  const messages = useMessages();
  const id = error instanceof ServiceError ? error.requestId : undefined;
  return (
    <div role="alert" className="eph-note-sheet">
      <p className="eph-note-title eph-trouble">{messages.notShown}</p>
      <p>{messages.translate(error.message)}</p>
      {id !== undefined && <p className="eph-aside">{messages.request(id)}</p>}
      {retryAt !== undefined && <Countdown until={retryAt} />}
      {retry !== undefined && (
        <button type="button" className="eph-plate" onClick={retry}>
          {messages.tryAgain}
        </button>
      )}
    </div>
  );
}

/** What a page shows in place of rows, where it wants to say it otherwise. */
export interface Instead {
  /** Until it is known whether there are rows; by default rows without values. */
  readonly loading?: ReactNode;
  /** The table holds no rows. */
  readonly empty?: ReactNode;
  /** The conditions leave none. */
  readonly nothingMatches?: ReactNode;
  /** The rows cannot be had; `retry` asks again. */
  readonly failed?: (error: Error, retry: () => void) => ReactNode;
}

/** What stands in place of rows: why there are none, and what can be done; undefined for rows. */
export function noteInstead(records: Drawn, model: TableModel, own: Instead = {}): ReactNode {
  const { total, error, retry, retryAt, query } = records;
  if (model.problems.length > 0) return <RefusedNote />;
  if (total === undefined) {
    if (error === undefined) return own.loading;
    return (
      own.failed?.(error, retry) ?? <FailureNote error={error} retry={retry} retryAt={retryAt} />
    );
  }
  if (total !== 0) return undefined;
  if (records.progress?.kind === 'searching') return <NothingYetNote />;
  return query.filter === undefined && query.search === undefined
    ? (own.empty ?? <EmptyNote />)
    : (own.nothingMatches ?? <NothingMatchesNote />);
}

/** The result is still looked through. */
function NothingYetNote(): ReactElement | null {
  const loaded = useLater(looks, true);
  return loaded.state === 'ready' ? <loaded.result.NothingYet /> : null;
}

/** The table holds no rows. */
function EmptyNote(): ReactElement {
  const { title } = useModel().table;
  const messages = useMessages();
  return (
    <div data-testid="empty">
      <p className="eph-note-title">{messages.emptyTable(title)}</p>
      <p className="eph-aside">{messages.nothingWritten}</p>
    </div>
  );
}

/** The conditions leave none. */
function NothingMatchesNote(): ReactElement {
  const { view, change } = useModel();
  const messages = useMessages();
  const own = view.filter !== undefined || view.search !== undefined;
  return (
    <div data-testid="nothing-matches">
      <p className="eph-note-title">{messages.nothingMatches}</p>
      <p className="eph-aside">{messages.conditionsLeaveNone}</p>
      {own && (
        <button
          type="button"
          className="eph-plate"
          onClick={() => change({ filter: undefined, search: undefined, place: undefined })}
        >
          {messages.dropConditions}
        </button>
      )}
    </div>
  );
}

/** What can be done about it is loaded then. */
const refused = new Later(() => import('./refused-note.tsx'));

/** The view asks for something that cannot be answered. */
function RefusedNote(): ReactElement {
  const messages = useMessages();
  const loaded = useLater(refused, true);
  if (loaded.state === 'ready') return <loaded.result.RefusedNote />;
  return <p className="eph-note-title eph-trouble">{messages.refused}</p>;
}
