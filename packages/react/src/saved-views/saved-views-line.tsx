import { ServiceError } from '@ephoros/client';
import { changed, showsTheSame, viewOfSaved, type View, type ViewAnswer } from '@ephoros/core/view';
import { useCallback, useMemo, useState, type ReactElement } from 'react';
import { Unanswered } from '../editors/unanswered.tsx';
import type { SavedViewMessages } from '../messages/saved-view-messages.ts';
import { always } from '../records/requested-view.ts';
import { Pop } from '../parts/pop.tsx';
import { useCount, useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { useAction } from '../use-action.ts';
import type { SavedViews } from './saved-views.ts';
import { ViewsSheet } from './views-sheet.tsx';

interface LineProps extends SavedViews {
  readonly messages: SavedViewMessages;
}

/** Which saved view is open and whether what is shown is as it was stored, with the ways on. */
export function SavedViewsLine(props: LineProps): ReactElement {
  const { client, open, setOpen, messages } = props;
  const { view, change, reader, table } = useModel();
  const [reported, setNote] = useState<ViewAnswer>();
  const path = open !== undefined && open !== '' && reported?.id !== open ? open : undefined;
  const read = useCallback(
    (signal: AbortSignal) => client.read(path ?? '', signal),
    [client, path],
  );
  const answer = useAnswer(path === undefined ? undefined : read);
  const known =
    reported?.id === open ? reported : answer.state === 'ready' ? answer.result : undefined;
  // The address may name a view of another table.
  const saved = known?.table === table.name ? known : undefined;
  const savedView = useMemo(() => saved && viewOfSaved(saved.view).view, [saved]);
  // That there is no condition is stated where the table would begin with one.
  const { filter = table.begin === undefined ? undefined : always } = view;
  const shown = useMemo(() => changed(view, { place: undefined, filter }), [view, filter]);
  const same = savedView !== undefined && showsTheSame(savedView, shown);
  const show = (next: ViewAnswer): void => {
    setNote(next);
    change(() => viewOfSaved(next.view).view);
    setOpen(next.id);
  };
  const failed = path !== undefined && answer.state === 'failed' ? answer : undefined;
  const gone = failed === undefined ? known !== saved : isGone(failed.error);
  return (
    <span className="eph-saved-views" data-testid="saved-views-line">
      <Pop
        className={saved === undefined ? 'eph-offer' : 'eph-phrase'}
        text={saved?.name ?? reader.messages.views}
        label={messages.title(table.title)}
      >
        {(_editors, close) => (
          <ViewsSheet
            {...props}
            table={table}
            shown={shown}
            savedView={saved}
            show={(next) => {
              show(next);
              close();
            }}
            put={setNote}
            leave={() => {
              change(() => ({}));
              setOpen('');
              close();
            }}
          />
        )}
      </Pop>
      {saved !== undefined && (
        <span role="status" className="eph-aside">
          {same ? messages.saved : messages.changedSince}
        </span>
      )}
      {saved !== undefined && savedView !== undefined && !same && (
        <>
          {saved.own && (
            <SaveAgain
              key={saved.id}
              savedView={saved}
              client={client}
              messages={messages}
              view={shown}
              put={setNote}
              show={show}
            />
          )}
          <button type="button" className="eph-offer" onClick={() => change(() => savedView)}>
            {messages.back}
          </button>
        </>
      )}
      {saved !== undefined && saved.left.length > 0 && (
        <Left savedView={saved} messages={messages} />
      )}
      {gone && (
        <span role="alert" className="eph-trouble">
          {messages.gone}
        </span>
      )}
      {failed !== undefined && !gone && <Unanswered answer={failed} what={messages.reading} />}
    </span>
  );
}

interface SaveAgainProps {
  readonly savedView: ViewAnswer;
  readonly client: SavedViews['client'];
  readonly messages: SavedViewMessages;
  readonly view: View;
  readonly put: (savedView: ViewAnswer) => void;
  readonly show: (savedView: ViewAnswer) => void;
}

/** Saves what is shown over a saved view, where nobody else has changed that meanwhile. */
function SaveAgain({ savedView, client, messages, view, put, show }: SaveAgainProps): ReactElement {
  const { running, error, run } = useAction();
  const save = (version: number | 'any'): Promise<void> =>
    run(async () => put(await client.change({ id: savedView.id, version }, { view })));
  const quicker = error instanceof ServiceError && error.status === 412;
  return (
    <>
      {!quicker && (
        <button
          type="button"
          className="eph-offer"
          disabled={running}
          onClick={() => void save(savedView.version)}
        >
          {messages.save}
        </button>
      )}
      {error !== undefined && (
        <span role="alert" className="eph-trouble">
          {quicker ? messages.changedMeanwhile : error.message}{' '}
          {quicker && (
            <>
              <button type="button" onClick={() => void save('any')}>
                {messages.saveOver}
              </button>{' '}
              <button
                type="button"
                onClick={() => void run(async () => show(await client.read(savedView.id)))}
              >
                {messages.openTheirs}
              </button>
            </>
          )}
        </span>
      )}
    </>
  );
}

/** What of a view its table no longer has. */
function Left({
  savedView,
  messages,
}: {
  savedView: ViewAnswer;
  messages: SavedViewMessages;
}): ReactElement {
  const written = useCount();
  const count = savedView.left.length;
  return (
    <span role="status" className="eph-trouble">
      {messages.left(count, written(count))}{' '}
      {savedView.left.map(({ message }) => message).join(' ')}
    </span>
  );
}

function isGone(error: Error): boolean {
  return error instanceof ServiceError && error.status === 404;
}
