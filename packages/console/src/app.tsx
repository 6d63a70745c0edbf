import type { ReactElement } from 'react';
import { Link, Route, Switch } from 'wouter';
import { Masthead } from './shell/masthead.tsx';
import { TablePage } from './tables/table-page.tsx';
import { TablesPage } from './tables/tables-page.tsx';

export function App(): ReactElement {
  return (
    <Switch>
      <Route path="/" component={TablesPage} />
      <Route path="/tables/:table">
        {({ table }) => <TablePage key={table} name={decodeURIComponent(table)} />}
      </Route>
      <Route>
        <Masthead />
        <main className="px-10 py-16 font-serif text-2xl">
          There is no such page.{' '}
          <Link className="phrase" href="/">
            The tables
          </Link>{' '}
          are elsewhere.
        </main>
      </Route>
    </Switch>
  );
}
