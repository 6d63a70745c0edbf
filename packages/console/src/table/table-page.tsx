import type { TableDescription } from '@ephoros/core/schema';
import { Boundary } from '@ephoros/react';
import { useCallback, useEffect, type ReactElement } from 'react';
import { useAnswer } from '../answer.ts';
import { Connect } from '../connect/connect.tsx';
import { FailureNote } from '../shell/failure.tsx';
import { Masthead } from '../shell/masthead.tsx';
import { FilterLine } from './filter-line.tsx';
import { describeAround, type KnownTables } from './known-tables.ts';
import { RefusedNote } from './notes.tsx';
import { OutlineRows } from './outline-rows.tsx';
import { Rows } from './rows.tsx';
import { ViewSentence } from './view-sentence.tsx';
import { useView } from './view-state.ts';

/** A table: the sentence that says what is shown, and the rows. */
export function TablePage({ name }: { name: string }): ReactElement {
  const ask = useCallback((signal: AbortSignal) => describeAround(name, signal), [name]);
  const answer = useAnswer(ask);
  return (
    <div className="flex h-dvh flex-col">
      {answer.state !== 'ready' && <Masthead title={name} />}
      {answer.state === 'loading' && (
        <p className="px-6 py-10 text-faint">Reading the description …</p>
      )}
      {answer.state === 'failed' && (
        <div className="px-6 py-10">
          <FailureNote error={answer.error} retry={answer.retry} />
        </div>
      )}
      {answer.state === 'ready' && (
        <Boundary instead={undrawn}>
          <Desk {...answer.result} />
        </Boundary>
      )}
    </div>
  );
}

/** Where something cannot be drawn, the masthead leads on. */
function undrawn(error: Error, again: () => void): ReactElement {
  return (
    <>
      <Masthead />
      <div className="px-6 py-10">
        <FailureNote error={error} retry={again} />
      </div>
    </>
  );
}

function Desk({ table, tables }: KnownTables): ReactElement {
  const view = useView(table, tables);
  const { checked, grouping, problems } = view;
  useEffect(() => {
    document.title = table.title;
  }, [table]);
  return (
    <>
      <Masthead title={table.name}>
        {checked !== undefined && <Connect view={view} table={table} />}
      </Masthead>
      <div className="px-6 pb-3">
        <ViewSentence view={view} table={table} />
        <FilterLine view={view} example={exampleFilter(table)} />
        {table.remarks.map((remark) => (
          <p key={remark} className="mt-1 text-sm text-faint italic">
            {remark}
          </p>
        ))}
      </div>
      {checked === undefined ? (
        <main className="min-h-0 grow border-t border-rule px-6 py-10">
          <RefusedNote problems={problems} view={view} />
        </main>
      ) : grouping !== undefined && grouping.levels.length > 0 ? (
        <OutlineRows view={view} table={table} checked={checked} grouping={grouping} />
      ) : (
        <Rows view={view} table={table} checked={checked} />
      )}
    </>
  );
}

/** A condition that fits the table, to show how one is written. */
function exampleFilter({ columns }: TableDescription): string {
  const choice = columns.find(({ type }) => type.kind === 'enum');
  const amount = columns.find(({ type }) => type.kind === 'numeric');
  const word = columns.find(({ type }) => type.kind === 'text');
  const terms = [
    choice?.type.kind === 'enum'
      ? `${choice.name} = '${choice.type.values.at(-1) ?? ''}'`
      : undefined,
    amount && `${amount.name} > 1.5`,
    choice ? undefined : word && `${word.name} LIKE 'A%'`,
  ];
  return (
    terms.filter((term) => term !== undefined).join(' AND ') || `${columns[0]?.name ?? 'id'} = 1`
  );
}
