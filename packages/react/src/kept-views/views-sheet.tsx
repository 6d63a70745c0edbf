import type { TableDescription } from '@ephoros/core/schema';
import type { View, ViewAnswer } from '@ephoros/core/view';
import { useCallback, useState, type ReactElement } from 'react';
import { useFinding } from '../editors/finder.tsx';
import { Unanswered } from '../editors/unanswered.tsx';
import type { KeptViewMessages } from '../messages/kept-view-messages.ts';
import { useAnswer } from '../use-answer.ts';
import type { KeptViews } from './kept-views.ts';
import { ViewForm } from './view-form.tsx';

export interface ViewsSheetProps extends KeptViews {
  readonly said: KeptViewMessages;
  readonly table: TableDescription;
  /** What is shown, wherever in it one is. */
  readonly shown: View;
  /** The view that is open. */
  readonly kept: ViewAnswer | undefined;
  /** Shows a view. */
  readonly show: (view: ViewAnswer) => void;
  /** The open view is another one now. */
  readonly put: (view: ViewAnswer) => void;
  /** Shows the table without a view. */
  readonly leave: () => void;
}

/** Lists with fewer are seen at once. */
const worthFinding = 8;

/** The views of a table: to open one, to keep what is shown, to change what is said of one. */
export function ViewsSheet(props: ViewsSheetProps): ReactElement {
  const { said, table, shown, kept, show, put, leave, client } = props;
  const [about, setAbout] = useState<ViewAnswer | 'new'>();
  if (about === 'new') {
    return (
      <ViewForm
        said={said}
        title={said.keepAs}
        save={async (form) => show(await client.keep({ ...form, table: table.name, view: shown }))}
        cancel={() => setAbout(undefined)}
      />
    );
  }
  if (about !== undefined) {
    return (
      <ViewForm
        said={said}
        title={said.about(about.name)}
        given={about}
        save={async (form) => {
          const next = await client.change(about, form);
          if (kept?.id === next.id) put(next);
          setAbout(undefined);
        }}
        cancel={() => setAbout(undefined)}
        drop={async () => {
          await client.drop(about.id);
          if (kept?.id === about.id) leave();
          else setAbout(undefined);
        }}
      />
    );
  }
  return (
    <>
      <ViewList {...props} change={setAbout} />
      <div className="eph-deeds-down">
        <button type="button" className="eph-offer" onClick={() => setAbout('new')}>
          {said.keepAs}
        </button>
        {kept !== undefined && (
          <button type="button" className="eph-offer" onClick={leave}>
            {said.plain}
          </button>
        )}
      </div>
    </>
  );
}

interface ListProps extends ViewsSheetProps {
  readonly change: (view: ViewAnswer) => void;
}

function ViewList({ said, table, kept, show, client, change }: ListProps): ReactElement {
  const { containing, limit, more, finder } = useFinding();
  const { name } = table;
  const ask = useCallback(
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
  const answer = useAnswer(ask);
  if (answer.state !== 'ready') {
    return (
      <>
        {containing !== '' && finder(said.find)}
        <Unanswered answer={answer} what={said.reading} />
      </>
    );
  }
  const { views } = answer.result;
  return (
    <>
      {(containing !== '' || views.length > worthFinding) && finder(said.find)}
      {views.length === 0 && (
        <p className="eph-aside">{containing === '' ? said.none : said.noSuch}</p>
      )}
      <ul className="eph-plain-list eph-views">
        {views.map((view) => (
          <li key={view.id}>
            <button
              type="button"
              className="eph-line-button"
              aria-current={view.id === kept?.id}
              onClick={() => show(view)}
            >
              <span>{view.name}</span>
              <span className="eph-aside">{told(view, said)}</span>
            </button>
            {view.own && (
              <button
                type="button"
                className="eph-offer"
                aria-label={said.about(view.name)}
                title={said.about(view.name)}
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
          {said.more}
        </button>
      )}
    </>
  );
}

function told({ shared, first, own, by }: ViewAnswer, said: KeptViewMessages): string {
  const parts = [
    shared && own ? said.forAll : undefined,
    own || by === null ? undefined : said.by(by),
    first ? said.opensFirst : undefined,
  ];
  return parts.filter((part) => part !== undefined).join(', ');
}
