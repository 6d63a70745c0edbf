import type { TableSummary } from '@ephoros/core/schema';
import { FailureNote, useAnswer } from '@ephoros/react';
import { useEffect, type ReactElement } from 'react';
import { Link } from 'wouter';
import { client, reader } from '../service.ts';
import { Masthead } from '../shell/masthead.tsx';

const ask = (signal: AbortSignal): ReturnType<typeof client.tables> => client.tables(signal);

/** The contents page: every published table. */
export function TablesPage(): ReactElement {
  const answer = useAnswer(ask);
  const title = answer.state === 'ready' ? answer.result.title : 'Ephoros';
  useEffect(() => {
    document.title = title;
  }, [title]);
  return (
    <>
      <Masthead />
      <main className="mx-auto max-w-3xl px-6 pt-14 pb-24">
        <h1 className="font-serif text-5xl font-semibold tracking-tight">{title}</h1>
        {answer.state === 'loading' && <p className="mt-6 text-faint">Reading the contents …</p>}
        {answer.state === 'failed' && (
          <div className="mt-8">
            <FailureNote error={answer.error} retry={answer.retry} />
          </div>
        )}
        {answer.state === 'ready' && <Contents tables={answer.result.tables} />}
      </main>
    </>
  );
}

function Contents({ tables }: { tables: readonly TableSummary[] }): ReactElement {
  if (tables.length === 0) {
    return (
      <p className="mt-8 font-serif text-xl">
        There is no table that the service may read. Grant its role SELECT on some, and reload.
      </p>
    );
  }
  return (
    <ol className="mt-10">
      {tables.map((table) => (
        <li key={table.name}>
          <Link
            href={`/tables/${encodeURIComponent(table.name)}`}
            className="group flex items-baseline gap-3 border-b border-rule py-3 hover:text-amber"
          >
            <span className="font-serif text-2xl">{table.title}</span>
            {table.comment !== undefined && (
              <span className="text-faint italic">{table.comment}</span>
            )}
            <span className="grow" />
            <span className="text-faint tabular-nums group-hover:text-amber">{size(table)}</span>
          </Link>
        </li>
      ))}
    </ol>
  );
}

function size({ estimatedRows, kind }: TableSummary): string {
  if (estimatedRows === null) return kind === 'view' ? 'a view' : 'not counted yet';
  return `about ${estimatedRows.toLocaleString(reader.locale)} rows`;
}
