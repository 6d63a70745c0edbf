import { ServiceError } from '@ephoros/client';
import { changed, type View } from '@ephoros/core/view';
import type { ReactElement, ReactNode } from 'react';
import { useMessages } from '../messages/use-messages.ts';
import type { Drawn } from '../records/use-records.ts';
import { Countdown } from './countdown.tsx';
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
      <p>{error.message}</p>
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
  return query.filter === undefined && query.search === undefined
    ? (own.empty ?? <EmptyNote />)
    : (own.nothingMatches ?? <NothingMatchesNote />);
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

/** The view asks for something that cannot be answered. */
function RefusedNote(): ReactElement {
  const { problems, change } = useModel();
  const messages = useMessages();
  // What is wrong with the filter is said where it stands.
  const elsewhere = problems.filter(({ parameter }) => parameter !== 'filter');
  return (
    <div role="alert" data-testid="refused">
      <p className="eph-note-title eph-trouble">{messages.refused}</p>
      {elsewhere.length < problems.length && <p>{messages.conditionRefused}</p>}
      <ul className="eph-plain-list">
        {elsewhere.map(({ parameter, message, hint }, index) => (
          <li key={index}>
            <code className="eph-code eph-aside">{parameter}</code> {message} {hint}
          </li>
        ))}
      </ul>
      <button
        type="button"
        className="eph-plate"
        onClick={() =>
          change(
            (view) =>
              problems.reduce((left, { parameter = 'filter' }) => without(left, parameter), view),
            { mends: problems.map(({ parameter = 'filter' }) => parameter) },
          )
        }
      >
        {messages.leaveOut}
      </button>
    </div>
  );
}

/** The view without what a parameter says. */
function without(view: View, parameter: string): View {
  const part = parameter === 'page' || parameter === 'offset' ? 'place' : parameter;
  return changed(view, { [part]: undefined });
}
