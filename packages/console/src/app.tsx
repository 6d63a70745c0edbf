import { lazy, Suspense, type ReactElement } from 'react';
import { Link, Redirect, Route, Switch } from 'wouter';
import { useDesk } from './shell/desk.tsx';
import { ConsoleHeader } from './shell/console-header.tsx';
import { TablePage } from './tables/table-page.tsx';
import { ViewPage } from './tables/view-page.tsx';
import { TablesPage } from './tables/tables-page.tsx';

type PageOfTable = Readonly<Record<'table' | 'row' | 'key', string | undefined>>;

/** Loaded where a program asks to be let in. */
const ProgramPage = lazy(async () => ({
  default: (await import('./sign-in/program-page.tsx')).ProgramPage,
}));

export function App(): ReactElement {
  return (
    <Switch>
      <Route path="/" component={TablesPage} />
      <Route<PageOfTable> path="/tables/:table/:row?/:key?">
        {({ table, row, key }) =>
          row === undefined || (row === 'rows' && key !== undefined) ? (
            <TablePage
              key={table}
              name={decodeURIComponent(table ?? '')}
              openRow={key && keyInAddress()}
            />
          ) : (
            <NoSuchPage />
          )
        }
      </Route>
      <Route<{ readonly id: string }> path="/views/:id">
        {({ id }) => <ViewPage id={decodeURIComponent(id)} />}
      </Route>
      <Route path="/sign-in/program">
        <Suspense>
          <ProgramPage />
        </Suspense>
      </Route>
      <Route path="/sign-in">
        <Redirect to="/" replace />
      </Route>
      <Route>
        <NoSuchPage />
      </Route>
    </Switch>
  );
}

/** The key as it is written: the routes have it with some of its escapes read already. */
function keyInAddress(): string {
  return window.location.pathname.split('/')[4] ?? '';
}

function NoSuchPage(): ReactElement {
  const { words } = useDesk();
  return (
    <>
      <ConsoleHeader />
      <main className="px-10 py-16 font-serif text-2xl">
        {words.noPage}{' '}
        <Link className="phrase" href="/">
          {words.toTables}
        </Link>
      </main>
    </>
  );
}
