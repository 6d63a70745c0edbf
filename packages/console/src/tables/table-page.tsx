import { catalogOf } from '@ephoros/client';
import { TableView, useAddressView, useAnswer } from '@ephoros/react';
import { useCallback, useEffect, type ReactElement } from 'react';
import { Connect } from '../connect/connect.tsx';
import { client, reader } from '../service.ts';
import { Masthead } from '../shell/masthead.tsx';

/** A table, as its page's address says it. */
export function TablePage({ name }: { name: string }): ReactElement {
  const address = useAddressView();
  const describe = useCallback(() => catalogOf(client).describe(name), [name]);
  const answer = useAnswer(describe);
  const table = answer.state === 'ready' ? answer.result : undefined;
  const title = table?.title ?? name;
  useEffect(() => {
    document.title = title;
  }, [title]);
  return (
    <div className="flex h-dvh flex-col">
      <Masthead title={name}>
        {table !== undefined && address.problems.length === 0 && (
          <Connect view={address.view} table={table} />
        )}
      </Masthead>
      <main className="min-h-0 grow">
        <h1 className="sr-only">{title}</h1>
        <TableView client={client} table={name} reading="pages" {...address} {...reader} />
      </main>
    </div>
  );
}
