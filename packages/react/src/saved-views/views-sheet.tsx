import type { TableDescription } from '@ephoros/core/schema';
import type { View, ViewAnswer } from '@ephoros/core/view';
import { useCallback, useState, type ReactElement } from 'react';
import { useFinding } from '../editors/finder.tsx';
import { Unanswered } from '../editors/unanswered.tsx';
import type { SavedViewMessages } from '../messages/saved-view-messages.ts';
import { useAnswer } from '../use-answer.ts';
import type { SavedViews } from './saved-views.ts';
import { ViewForm } from './view-form.tsx';

export interface ViewsSheetProps extends SavedViews {
  readonly messages: SavedViewMessages;
  readonly table: TableDescription;
  /** What is shown, wherever in it one is. */
  readonly shown: View;
  /** The view that is open. */
  readonly savedView: ViewAnswer | undefined;
  /** Shows a view. */
  readonly show: (view: ViewAnswer) => void;
  /** The open view is another one now. */
  readonly put: (view: ViewAnswer) => void;
  /** Shows the table without a view. */
  readonly leave: () => void;
}

/** Lists with fewer are visible at once. */
const worthFinding = 8;

/** The views of a table: to open one, to keep what is shown, to change what is stated about one. */
export function ViewsSheet(props: ViewsSheetProps): ReactElement {
  const { messages, table, shown, savedView, show, put, leave, client } = props;
  const [about, setAbout] = useState<ViewAnswer | 'new'>();
  if (about === 'new') {
    return (
      <ViewForm
        messages={messages}
        title={messages.saveViewAs}
        save={async (form) => show(await client.keep({ ...form, table: table.name, view: shown }))}
        cancel={() => setAbout(undefined)}
      />
    );
  }
  if (about !== undefined) {
    return (
      <ViewForm
        messages={messages}
        title={messages.about(about.name)}
        given={about}
        save={async (form) => {
          const next = await client.change(about, form);
          if (savedView?.id === next.id) put(next);
          setAbout(undefined);
        }}
        cancel={() => setAbout(undefined)}
        drop={async () => {
          await client.drop(about.id);
          if (savedView?.id === about.id) leave();
          else setAbout(undefined);
        }}
      />
    );
  }
  return (
    <>
      <ViewList {...props} change={setAbout} />
      <div className="eph-actions-down">
        <button type="button" className="eph-offer" onClick={() => setAbout('new')}>
          {messages.saveViewAs}
        </button>
        {savedView !== undefined && (
          <button type="button" className="eph-offer" onClick={leave}>
            {messages.plain}
          </button>
        )}
      </div>
    </>
  );
}

interface ListProps extends ViewsSheetProps {
  readonly change: (view: ViewAnswer) => void;
}

function ViewList({ messages, table, savedView, show, client, change }: ListProps): ReactElement {
  const { containing, limit, more, finder } = useFinding();
  const { name } = table;
  const request = useCallback(
    async (signal: AbortSignal) => {
      const wanted = { table: name, ...(containing !== '' && { search: containing }) };
      const views: ViewAnswer[] = [];
      let after: string | null | undefined;
      while (after !== null && views.length < limit) {
        const read = await client.list({ ...wanted, ...(after && { after }) }, signal);
        views.push(...read.views);
        after = read.next;
      }
      return { views, more: after !== null };
    },
    [client, name, containing, limit],
  );
  const answer = useAnswer(request);
  if (answer.state !== 'ready') {
    return (
      <>
        {containing !== '' && finder(messages.find)}
        <Unanswered answer={answer} what={messages.reading} />
      </>
    );
  }
  const { views } = answer.result;
  return (
    <>
      {(containing !== '' || views.length > worthFinding) && finder(messages.find)}
      {views.length === 0 && (
        <p className="eph-aside">{containing === '' ? messages.none : messages.noSuch}</p>
      )}
      <ul className="eph-plain-list eph-views">
        {views.map((view) => (
          <li key={view.id}>
            <button
              type="button"
              className="eph-line-button"
              aria-current={view.id === savedView?.id}
              onClick={() => show(view)}
            >
              <span>{view.name}</span>
              <span className="eph-aside">{describeFlags(view, messages)}</span>
            </button>
            {view.own && (
              <button
                type="button"
                className="eph-offer"
                aria-label={messages.about(view.name)}
                title={messages.about(view.name)}
                onClick={() => change(view)}
              >
                …
              </button>
            )}
            {view.note !== '' && <p className="eph-aside">{view.note}</p>}
          </li>
        ))}
      </ul>
      {answer.result.more && (
        <button type="button" className="eph-offer" onClick={more}>
          {messages.more}
        </button>
      )}
    </>
  );
}

function describeFlags(
  { shared, first, own, by }: ViewAnswer,
  messages: SavedViewMessages,
): string {
  const parts = [
    shared && own ? messages.forAll : undefined,
    own || by === null ? undefined : messages.by(by),
    first ? messages.opensFirst : undefined,
  ];
  return parts.filter((part) => part !== undefined).join(', ');
}
