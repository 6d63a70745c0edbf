import { catalogOf, type Change, type ViewAnswer } from '@ephoros/client';
import { printView, viewOfSaved } from '@ephoros/core/view';
import {
  useAddressText,
  useAddressView,
  useInitialView,
  useAnswer,
  type AddressOf,
  type View,
} from '@ephoros/react';
import {
  lazy,
  Suspense,
  useCallback,
  useEffect,
  useState,
  type MouseEvent,
  type ReactElement,
} from 'react';
import { useLocation } from 'wouter';
import { client } from '../service.ts';
import { ConsoleHeader } from '../shell/console-header.tsx';
import { DeskTable } from './desk-table.tsx';
import { noteRecent } from './browser-lists.ts';

/** Loaded behind the rows: what a page begins with is what is read. */
const Connect = lazy(async () => ({
  default: (await import('../connect/connect.tsx')).Connect,
}));

/** Loaded behind the rows, too. */
const SecondTableOffer = lazy(async () => ({
  default: (await import('./second-table.tsx')).SecondTableOffer,
}));
const SecondTable = lazy(async () => ({
  default: (await import('./second-table.tsx')).SecondTable,
}));

/** A link to a page of the console is followed without loading it again. */
function followWithin(event: MouseEvent, navigate: (to: string) => void): void {
  const { button, ctrlKey, metaKey, shiftKey, altKey, defaultPrevented, target } = event;
  if (defaultPrevented || button !== 0 || ctrlKey || metaKey || shiftKey || altKey) return;
  const link = (target as Element).closest<HTMLAnchorElement>('a[href^="/tables/"]');
  if (link?.target !== '') return;
  event.preventDefault();
  navigate(link.getAttribute('href') ?? '');
}

function addressOfTable(table: string, row: string | undefined): string {
  const path = `/tables/${encodeURIComponent(table)}`;
  return row === undefined ? path : `${path}/rows/${row}`;
}

/** Where the console shows rows. */
const addressOf: AddressOf = (place) => {
  if ('row' in place) return addressOfTable(place.table, place.row);
  const parameters = printView(place.query as View).map(([name, text]) => [name, text]);
  return `${addressOfTable(place.table, undefined)}?${new URLSearchParams(parameters).toString()}`;
};

interface TablePageProps {
  readonly name: string;
  /** The key of the open row, as the address has it. */
  readonly openRow: string | undefined;
}

/** A table, as its page's address says it. */
export function TablePage({ name, openRow }: TablePageProps): ReactElement {
  const address = useAddressView();
  const [savedView, setSavedView] = useAddressText('view');
  const [secondTable, setSecondTable] = useAddressText('second');
  // Where the address says nothing of it, a table opens with a saved view.
  const [{ id, wanted }] = useState(() => ({
    id: savedView,
    wanted: Object.keys(address.texts).length === 0 && savedView !== '',
  }));
  const begin = (saved: ViewAnswer): void => {
    address.onViewChange(viewOfSaved(saved.view).view, { parts: [], passing: true, mends: [] });
    setSavedView(saved.id);
  };
  const begun = useInitialView({ client, table: name, id, wanted, begin });
  const [changes, setChanges] = useState<readonly Change[]>([]);
  const exampleRow = useCallback(
    async () => (await client.rows(name, { limit: 1, total: 'none' })).rows[0],
    [name],
  );
  const [, navigate] = useLocation();
  // The view stays in the address, whichever row is open.
  const open = useCallback(
    (key: string | undefined) => navigate(addressOfTable(name, key) + window.location.search),
    [name, navigate],
  );
  const describe = useCallback(() => catalogOf(client).describe(name), [name]);
  const answer = useAnswer(describe);
  const table = answer.state === 'ready' ? answer.result : undefined;
  const title = table?.title ?? name;
  useEffect(() => {
    document.title = title;
  }, [title]);
  const there = table !== undefined;
  useEffect(() => {
    if (there) noteRecent(name);
  }, [there, name]);
  return (
    <div className="flex h-dvh flex-col">
      <ConsoleHeader title={name}>
        {table !== undefined && secondTable === undefined && (
          <Suspense>
            <SecondTableOffer choose={setSecondTable} />
          </Suspense>
        )}
        {table !== undefined && address.problems.length === 0 && (
          <Suspense>
            <Connect view={address.view} table={table} changes={changes} exampleRow={exampleRow} />
          </Suspense>
        )}
      </ConsoleHeader>
      <main
        className="pages flex min-h-0 grow overflow-auto"
        onClick={(event) => followWithin(event, navigate)}
      >
        <h1 className="sr-only">{title}</h1>
        <div className="min-h-0 min-w-0 grow basis-0">
          {begun && (
            <DeskTable
              name={name}
              selection={name}
              onDraftsChange={setChanges}
              openRow={openRow}
              onOpenRow={open}
              addressOf={addressOf}
              {...address}
              savedViews
              printable
              savedView={savedView}
              onSavedViewChange={setSavedView}
            />
          )}
        </div>
        {secondTable !== undefined && (
          <Suspense>
            <SecondTable text={secondTable} put={setSecondTable} addressOf={addressOf} />
          </Suspense>
        )}
      </main>
    </div>
  );
}
