import { remoteRows, type RowSource, type SourceState } from '@ephoros/client';
import type { CheckedQuery } from '@ephoros/core/check';
import { conditionOf, sortInForce, type Query } from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import {
  RecordTable,
  useSource,
  type TableHandle,
  useClosedSource,
  VisibleRows,
} from '@ephoros/react';
import {
  useEffect,
  useMemo,
  useRef,
  useState,
  useSyncExternalStore,
  type ReactElement,
  type ReactNode,
} from 'react';
import { client } from '../service.ts';
import { FailureNote } from '../shell/failure.tsx';
import { columnOfTerm } from './aggregate-cell.tsx';
import { ColumnCard } from './column-card.tsx';
import { tableColumn } from './columns.tsx';
import { Countdown } from './countdown.tsx';
import { BehindTheEndNote, EmptyNote, NothingMatchesNote } from './notes.tsx';
import { RowsFooter } from './rows-footer.tsx';
import { useRuler } from './use-ruler.ts';
import { useFoot } from './use-foot.tsx';
import { cycled, sortTexts, type View } from './view-state.ts';

interface RowsProps {
  readonly view: View;
  readonly table: TableDescription;
  readonly checked: CheckedQuery;
}

/** Rows of one block in continuous reading. */
const scrollBlock = 100;

/** The rows of the view, with the strip beside them and the line below. */
export function Rows({ view, table, checked }: RowsProps): ReactElement {
  const { query, reading, texts } = view;
  const size = checked.limit;
  // Moving about asks the same source; only another question, or another page size, makes one.
  const question = JSON.stringify([
    texts.filter,
    texts.search,
    texts.sort,
    texts.nulls,
    texts.columns,
    texts.total,
    reading,
    size,
  ]);
  const source = useRemoteRows(table, query, checked, reading === 'scroll', question);
  const state = useSource(source);
  const { total } = state;
  const ruler = useRuler(view, table, checked, total);
  const handle = useRef<TableHandle>(null);

  const foot = useFoot(view, table);
  const columns = useMemo(
    () =>
      checked.columns.map((column) => {
        const conditioned = conditionOf(query.filter, column) !== undefined;
        const card = (
          <ColumnCard view={view} table={table} column={column} conditioned={conditioned} />
        );
        const aggregates = (query.aggregate ?? []).filter(
          ({ expression }) => columnOfTerm(expression) === column.name,
        ).length;
        return tableColumn(column, card, { foot: foot(column.name), aggregates });
      }),
    // Another place is another view, but the same columns: none of them is drawn anew for it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [table, question, foot],
  );
  const sort = sortInForce(query, table);
  const marks = sort.map(({ column, descending }) => ({ column: column.name, descending }));
  const range = useMemo(
    () => (reading === 'pages' ? { from: checked.offset, to: checked.offset + size } : undefined),
    [reading, checked.offset, size],
  );
  const [seen] = useState(() => new VisibleRows());

  const instead = insteadOfRows({ view, table, checked, state, retry: source.retry });
  return (
    <>
      <main className="min-h-0 grow border-t border-rule">
        <RecordTable
          key={question}
          source={source}
          columns={columns}
          label={table.title}
          sort={marks}
          onSort={(name, add) =>
            view.change(sortTexts(cycled(sort, name, add, table), table, query))
          }
          onVisibleRowsChange={seen.set}
          instead={instead}
          handle={handle}
          {...(ruler === undefined ? {} : { ruler })}
          {...(range === undefined ? { startRow: checked.offset } : { range })}
        />
      </main>
      <KeptPlace view={view} seen={seen} known={total !== undefined} />
      <RowsFooter
        view={view}
        checked={checked}
        state={state}
        seen={seen}
        quiet={instead !== undefined}
        retry={source.retry}
        goTo={(row) => handle.current?.goTo(row)}
      />
    </>
  );
}

/** A source for the question in force; the one before is closed. */
function useRemoteRows(
  table: TableDescription,
  query: Query,
  { columns, limit }: CheckedQuery,
  scrolled: boolean,
  question: string,
): RowSource {
  const source = useMemo(
    () => {
      const names = columns.map(({ name }) => ({ name, span: { start: 0, end: 0 } }));
      return remoteRows({
        ask: (window, signal) => client.rows(table.name, window, signal),
        query: { ...query, ...(query.columns === undefined ? {} : { columns: names }) },
        blockSize: scrolled ? scrollBlock : limit,
        // A page is read, not scrolled past.
        ahead: scrolled ? 1 : 0,
        keyed: table.key.length > 0,
      });
    },
    // `question` stands for the query and its columns, which are made anew at every drawing.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [table, scrolled, question],
  );
  useClosedSource(source);
  return source;
}

interface KeptPlaceProps {
  readonly view: View;
  readonly seen: VisibleRows;
  readonly known: boolean;
}

/** Keeps the first row seen of a continuous reading in the address, without history entries. */
function KeptPlace({ view, seen, known }: KeptPlaceProps): null {
  const { reading, texts, change } = view;
  const { first } = useSyncExternalStore(seen.subscribe, seen.get);
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
  return null;
}

interface InsteadProps extends RowsProps {
  readonly state: SourceState;
  readonly retry: () => void;
}

function insteadOfRows(props: InsteadProps): ReactNode {
  const { view, table, checked, state, retry } = props;
  const { total, error, retryAt } = state;
  if (total === undefined) {
    if (error === undefined) return undefined;
    return (
      <FailureNote error={error} retry={retry}>
        {retryAt !== undefined && <Countdown until={retryAt} />}
      </FailureNote>
    );
  }
  if (total === 0) {
    return checked.filter === undefined ? (
      <EmptyNote table={table} />
    ) : (
      <NothingMatchesNote view={view} />
    );
  }
  if (view.reading === 'pages' && !state.open && checked.offset >= total)
    return <BehindTheEndNote view={view} />;
  return undefined;
}
