import { ServiceError } from '@ephoros/client';
import { changed, showsTheSame, viewOfSaved, type View, type ViewAnswer } from '@ephoros/core/view';
import { useCallback, useMemo, useState, type ReactElement } from 'react';
import { Unanswered } from '../editors/unanswered.tsx';
import type { KeptViewMessages } from '../messages/kept-view-messages.ts';
import { always } from '../records/asked.ts';
import { Pop } from '../parts/pop.tsx';
import { useCount, useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { useDeed } from '../use-deed.ts';
import type { KeptViews } from './kept-views.ts';
import { ViewsSheet } from './views-sheet.tsx';

interface LineProps extends KeptViews {
  readonly said: KeptViewMessages;
}

/** Which kept view is open and whether what is shown is as it was kept, with the ways on. */
export function KeptViewsLine(props: LineProps): ReactElement {
  const { client, open, setOpen, said } = props;
  const { view, change, reader, table } = useModel();
  const [told, setTold] = useState<ViewAnswer>();
  const asked = open !== undefined && open !== '' && told?.id !== open ? open : undefined;
  const read = useCallback(
    (signal: AbortSignal) => client.read(asked ?? '', signal),
    [client, asked],
  );
  const answer = useAnswer(asked === undefined ? undefined : read);
  const known = told?.id === open ? told : answer.state === 'ready' ? answer.result : undefined;
  // The address may name a view of another table.
  const kept = known?.table === table.name ? known : undefined;
  const keptView = useMemo(() => kept && viewOfSaved(kept.view).view, [kept]);
  // That there is no condition is said where the table would begin with one.
  const { filter = table.begin === undefined ? undefined : always } = view;
  const shown = useMemo(() => changed(view, { place: undefined, filter }), [view, filter]);
  const same = keptView !== undefined && showsTheSame(keptView, shown);
  const show = (next: ViewAnswer): void => {
    setTold(next);
    change(() => viewOfSaved(next.view).view);
    setOpen(next.id);
  };
  const failed = asked !== undefined && answer.state === 'failed' ? answer : undefined;
  const gone = failed === undefined ? known !== kept : isGone(failed.error);
  return (
    <span className="eph-kept" data-testid="kept-view">
      <Pop
        className={kept === undefined ? 'eph-offer' : 'eph-phrase'}
        text={kept?.name ?? reader.messages.views}
        label={said.title(table.title)}
      >
        {(_editors, close) => (
          <ViewsSheet
            {...props}
            table={table}
            shown={shown}
            kept={kept}
            show={(next) => {
              show(next);
              close();
            }}
            put={setTold}
            leave={() => {
              change(() => ({}));
              setOpen('');
              close();
            }}
          />
        )}
      </Pop>
      {kept !== undefined && (
        <span role="status" className="eph-aside">
          {same ? said.saved : said.changedSince}
        </span>
      )}
      {kept !== undefined && keptView !== undefined && !same && (
        <>
          {kept.own && (
            <SaveAgain
              key={kept.id}
              kept={kept}
              client={client}
              said={said}
              view={shown}
              put={setTold}
              show={show}
            />
          )}
          <button type="button" className="eph-offer" onClick={() => change(() => keptView)}>
            {said.back}
          </button>
        </>
      )}
      {kept !== undefined && kept.left.length > 0 && <Left kept={kept} said={said} />}
      {gone && (
        <span role="alert" className="eph-trouble">
          {said.gone}
        </span>
      )}
      {failed !== undefined && !gone && <Unanswered answer={failed} what={said.reading} />}
    </span>
  );
}

interface SaveAgainProps {
  readonly kept: ViewAnswer;
  readonly client: KeptViews['client'];
  readonly said: KeptViewMessages;
  readonly view: View;
  readonly put: (kept: ViewAnswer) => void;
  readonly show: (kept: ViewAnswer) => void;
}

/** Saves what is shown over a kept view, where nobody else has changed that meanwhile. */
function SaveAgain({ kept, client, said, view, put, show }: SaveAgainProps): ReactElement {
  const { running, error, run } = useDeed();
  const save = (version: number | 'any'): Promise<void> =>
    run(async () => put(await client.change({ id: kept.id, version }, { view })));
  const quicker = error instanceof ServiceError && error.status === 412;
  return (
    <>
      {!quicker && (
        <button
          type="button"
          className="eph-offer"
          disabled={running}
          onClick={() => void save(kept.version)}
        >
          {said.save}
        </button>
      )}
      {error !== undefined && (
        <span role="alert" className="eph-trouble">
          {quicker ? said.changedMeanwhile : error.message}{' '}
          {quicker && (
            <>
              <button type="button" onClick={() => void save('any')}>
                {said.saveOver}
              </button>{' '}
              <button
                type="button"
                onClick={() => void run(async () => show(await client.read(kept.id)))}
              >
                {said.openTheirs}
              </button>
            </>
          )}
        </span>
      )}
    </>
  );
}

/** What of a view its table no longer has. */
function Left({ kept, said }: { kept: ViewAnswer; said: KeptViewMessages }): ReactElement {
  const written = useCount();
  const count = kept.left.length;
  return (
    <span role="status" className="eph-trouble">
      {said.left(count, written(count))} {kept.left.map(({ message }) => message).join(' ')}
    </span>
  );
}

function isGone(error: Error): boolean {
  return error instanceof ServiceError && error.status === 404;
}
