import { remoteRows, type RowSource } from '@ephoros/client';
import type { CheckedQuery } from '@ephoros/core/check';
import { conditionOf, type Query } from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import { RecordTable, useSource } from '@ephoros/react';
import {
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
  type ReactElement,
  type ReactNode,
} from 'react';
import { useAnswer } from '../answer.ts';
import { client, reader } from '../service.ts';
import { FailureNote } from '../shell/failure.tsx';
import { Masthead } from '../shell/masthead.tsx';
import { ColumnCard } from './column-card.tsx';
import { tableColumn } from './columns.tsx';
import { FilterLine } from './filter-line.tsx';
import { BehindTheEndNote, EmptyNote, NothingMatchesNote, RefusedNote } from './notes.tsx';
import { Pager } from './pager.tsx';
import { ViewSentence } from './view-sentence.tsx';
import { cycled, sortInForce, sortTexts, useView, type View } from './view-state.ts';

/** A table: the sentence that says what is shown, and the rows. */
export function TablePage({ name }: { name: string }): ReactElement {
  const ask = useCallback((signal: AbortSignal) => client.describe(name, signal), [name]);
  const answer = useAnswer(ask);
  return (
    <div className="flex h-dvh flex-col">
      <Masthead title={name} />
      {answer.state === 'loading' && (
        <p className="px-6 py-10 text-faint">Reading the description …</p>
      )}
      {answer.state === 'failed' && (
        <div className="px-6 py-10">
          <FailureNote error={answer.error} retry={answer.retry} />
        </div>
      )}
      {answer.state === 'ready' && <Desk table={answer.result} />}
    </div>
  );
}

function Desk({ table }: { table: TableDescription }): ReactElement {
  const view = useView(table);
  const { checked, problems } = view;
  useEffect(() => {
    document.title = table.title;
  }, [table]);
  return (
    <>
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
      ) : (
        <Rows view={view} table={table} checked={checked} />
      )}
    </>
  );
}

interface RowsProps {
  readonly view: View;
  readonly table: TableDescription;
  readonly checked: CheckedQuery;
}

/** Rows of one block in continuous reading. */
const scrollBlock = 100;

function Rows({ view, table, checked }: RowsProps): ReactElement {
  const { query, reading, texts } = view;
  const size = checked.limit;
  // Moving about asks the same source; only another question, or another page size, makes one.
  const question = JSON.stringify([
    texts.filter,
    texts.sort,
    texts.nulls,
    texts.columns,
    reading,
    size,
  ]);
  const source = useRemoteRows(
    table.name,
    query,
    checked,
    reading === 'scroll' ? scrollBlock : size,
    question,
  );
  const { total, totalKind, status, error } = useSource(source);

  const columns = useMemo(
    () =>
      checked.columns.map((column) => {
        const conditioned = conditionOf(query.filter, column) !== undefined;
        const card = (
          <ColumnCard view={view} table={table} column={column} conditioned={conditioned} />
        );
        return tableColumn(column, card);
      }),
    [checked.columns, query.filter, table, view],
  );
  const sort = sortInForce(view, table);
  const marks = sort.map(({ column, descending }) => ({ column: column.name, descending }));
  const range = useMemo(
    () => (reading === 'pages' ? { from: checked.offset, to: checked.offset + size } : undefined),
    [reading, checked.offset, size],
  );
  const [seen, setSeen] = useState({ first: 0, last: 0 });
  const onLook = useCallback((first: number, last: number) => setSeen({ first, last }), []);
  useKeptPlace(view, seen.first, total !== undefined);

  const instead = insteadOfRows({ view, table, checked, total, error, retry: source.retry });
  return (
    <>
      <main className="min-h-0 grow border-t border-rule">
        <RecordTable
          key={question}
          source={source}
          columns={columns}
          label={table.title}
          sort={marks}
          onSort={(name, add) => view.change(sortTexts(cycled(sort, name, add, table), table))}
          onLook={onLook}
          instead={instead}
          {...(range === undefined ? { startRow: checked.offset } : { range })}
        />
      </main>
      <footer className="flex flex-wrap items-baseline gap-x-8 gap-y-1 border-t border-rule px-6 py-2 text-sm">
        <span data-testid="position" aria-live="polite">
          {positionText(reading === 'pages' ? pageOf(checked, total) : seen, total, totalKind)}
        </span>
        {error !== undefined && instead === undefined && (
          <span role="alert" className="text-fault">
            Some rows could not be loaded: {error.message}{' '}
            <button type="button" className="cursor-pointer underline" onClick={source.retry}>
              Try again
            </button>
          </span>
        )}
        <span className="grow text-faint">
          {status === 'loading' && total !== undefined ? 'loading …' : ''}
        </span>
        {reading === 'pages' && total !== undefined && (
          <Pager
            view={view}
            page={Math.floor(checked.offset / size) + 1}
            size={size}
            total={total}
          />
        )}
      </footer>
    </>
  );
}

/** A source for the question in force; the one before is closed. */
function useRemoteRows(
  table: string,
  query: Query,
  { columns }: CheckedQuery,
  blockSize: number,
  question: string,
): RowSource {
  const source = useMemo(
    () => {
      const names = columns.map(({ name }) => ({ name, span: { start: 0, end: 0 } }));
      return remoteRows({
        ask: (window, signal) => client.rows(table, window, signal),
        query: { ...query, ...(query.columns === undefined ? {} : { columns: names }) },
        blockSize,
      });
    },
    // `question` stands for the query and its columns, which are made anew at every drawing.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [table, blockSize, question],
  );
  const [opened] = useState(() => new Set<RowSource>());
  useEffect(() => {
    opened.add(source);
    return () => {
      opened.delete(source);
      // React's strict mode takes effects back and does them again; the second time stays.
      setTimeout(() => {
        if (!opened.has(source)) source.close();
      });
    };
  }, [source, opened]);
  return source;
}

/** Keeps the first row seen of a continuous reading in the address, without history entries. */
function useKeptPlace({ reading, texts, change }: View, first: number, known: boolean): void {
  const { offset } = texts;
  const settled = useRef(false);
  useEffect(() => {
    if (reading !== 'scroll' || !known) return undefined;
    // The place in the address is gone to first.
    if (!settled.current && offset !== undefined && first === 0) {
      settled.current = true;
      return undefined;
    }
    settled.current = true;
    const text = first === 0 ? undefined : String(first);
    if (text === offset) return undefined;
    const timer = setTimeout(() => change({ offset: text, page: undefined }, true), 250);
    return () => clearTimeout(timer);
  }, [reading, known, first, offset, change]);
}

interface InsteadProps extends RowsProps {
  readonly total: number | undefined;
  readonly error: Error | undefined;
  readonly retry: () => void;
}

function insteadOfRows(props: InsteadProps): ReactNode {
  const { view, table, checked, total, error, retry } = props;
  if (total === undefined) {
    return error === undefined ? undefined : <FailureNote error={error} retry={retry} />;
  }
  if (total === 0) {
    return checked.filter === undefined ? (
      <EmptyNote table={table} />
    ) : (
      <NothingMatchesNote view={view} />
    );
  }
  if (view.reading === 'pages' && checked.offset >= total) return <BehindTheEndNote view={view} />;
  return undefined;
}

function pageOf({ offset, limit }: CheckedQuery, total = 0): { first: number; last: number } {
  return { first: offset, last: Math.min(offset + limit, total) - 1 };
}

/** "rows 201–250 of 200,000" */
function positionText(
  { first, last }: { first: number; last: number },
  total: number | undefined,
  totalKind: string,
): string {
  if (total === undefined) return 'counting …';
  if (total === 0 || last < first) return 'no rows';
  const say = (count: number): string => count.toLocaleString(reader.locale);
  const about = totalKind === 'estimate' ? 'about ' : '';
  return `rows ${say(first + 1)}–${say(Math.min(last, total - 1) + 1)} of ${about}${say(total)}`;
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
