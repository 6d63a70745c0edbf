import { isOutline } from '../table/row-at.ts';
import { useSyncExternalStore, type ReactElement, type ReactNode } from 'react';
import type { Drawn } from '../records/use-records.ts';
import type { VisibleRows } from '../table/visible-rows.ts';
import { Countdown } from './countdown.tsx';
import { Later, useLater } from '../later.ts';
import { LoadFailure } from './load-failure.tsx';
import { looks } from './appearances.ts';
import type { TableAction } from './selection-line.tsx';
import { Jump } from './jump.tsx';
import { Pages } from './pages.tsx';
import { Pop } from './pop.tsx';
import { useCount, useModel, useRowsOf } from './table-context.ts';

interface Happens {
  readonly open: boolean;
  readonly setOpen: (open: boolean) => void;
}

interface FootLineProps {
  /** The rows in view: drawn again with them, and not the table around. */
  readonly visible: VisibleRows;
  /** Whether something stands in place of the rows that reports failures already. */
  readonly quiet: boolean;
  readonly goTo: (row: number) => void;
  /** Whether there is no sentence to say how the rows are read, and to change that. */
  readonly sayReading: boolean;
  readonly actions: readonly TableAction[];
  /** Why a range of rows was not selected. */
  readonly refusal: 'too-long' | Error | undefined;
  /** Whether what happened is looked at; undefined where that cannot be. */
  readonly requestLog: Happens | undefined;
  /** What waits to be saved. */
  readonly drafts: ReactNode;
  /** Rows as files. */
  readonly exporting: ReactNode;
}

/** Loaded with the first selected row. */
const selectionLine = new Later(() => import('./selection-line.tsx'));

/** What is shown of how much, what went wrong, what is selected, the way to other rows. */
export function FootLine(props: FootLineProps): ReactElement {
  const { visible, quiet, goTo, sayReading, actions, refusal, drafts, exporting, requestLog } =
    props;
  const records = useRowsOf();
  const { reader } = useModel();
  const { messages } = reader;
  const count = useCount();
  const { total, open, status, selection, cached: remaining, pager, progress } = records;
  const outline = isOutline(records.source);
  const any = selection.chosen.kind === 'matching' || selection.keys.length > 0;
  const chosen = useLater(selectionLine, any);
  const paged = records.reading === 'pages' && !outline;
  const appends = records.reading === 'more' && !outline;
  const moved = records.view.place !== undefined;
  return (
    <footer className="eph-line">
      <Place visible={visible} quiet={quiet} paged={paged} />
      <button type="button" className="eph-offer" onClick={records.refresh}>
        {messages.refresh}
      </button>
      {moved && !outline && (
        <button
          type="button"
          className="eph-offer"
          onClick={() => {
            records.restart();
            goTo(0);
          }}
        >
          {messages.backToStart}
        </button>
      )}
      <Pop className="eph-offer eph-help" text="?" name={messages.keys} label={messages.keys}>
        {({ KeySheet }) => <KeySheet />}
      </Pop>
      {requestLog !== undefined && <HappensButton {...requestLog} />}
      {!quiet && <Trouble records={records} />}
      <span className="eph-grow eph-aside">
        {status === 'loading' && total !== undefined && progress === undefined
          ? messages.loading
          : ''}
      </span>
      {remaining?.where === 'memory' && total !== undefined && (
        <span className="eph-aside">{messages.inMemory(count(remaining.maxRows))}</span>
      )}
      {drafts}
      {exporting}
      {any && chosen.state === 'failed' && <LoadFailure retry={chosen.retry} />}
      {any && chosen.state === 'ready' && (
        <chosen.result.SelectionLine actions={actions} refusal={refusal} />
      )}
      {sayReading && !outline && (
        <Pop
          className="eph-offer"
          text={
            paged
              ? messages.readingPages(count(pager.size))
              : appends
                ? messages.readingMore(count(pager.size))
                : messages.readingScroll
          }
          label={messages.editors.readingSheet}
        >
          {({ ReadingEditor }, close) => <ReadingEditor done={close} />}
        </Pop>
      )}
      {paged && total !== undefined && <Pages {...pager} />}
      {appends && total !== undefined && (open || pager.page * pager.size < total) && (
        <button type="button" className="eph-plate" onClick={() => pager.goTo(pager.page + 1)}>
          {messages.moreRows(count(pager.size))}
        </button>
      )}
      {!paged && !appends && !outline && total !== undefined && total > 0 && (
        <Jump label={messages.toRow} most={open ? undefined : total} go={(row) => goTo(row - 1)} />
      )}
    </footer>
  );
}

/** Which rows are in view, of how many, and how far what is still looked for is: another one with every frame. */
function Place({
  visible,
  quiet,
  paged,
}: Pick<FootLineProps, 'visible' | 'quiet'> & { readonly paged: boolean }): ReactElement {
  const records = useRowsOf();
  const { messages } = useModel().reader;
  const count = useCount();
  const inView = useSyncExternalStore(visible.subscribe, visible.get, visible.get);
  const { total, totalKind, open, progress, window, pager } = records;
  const scan = useLater(looks, progress !== undefined);
  const pageEnd = open ? Math.min(window.from + pager.size, total ?? 0) : window.to;
  const { first, last } = paged ? { first: window.from, last: pageEnd - 1 } : inView;
  /** "rows 201–250 of 200,000" */
  const text = (): string => {
    const outline = isOutline(records.source);
    if (total === undefined || (open && total <= first)) return messages.loading;
    // What is looked through says itself how many were found in it.
    const searched = progress?.kind === 'searching';
    if (searched && total === 0) return '';
    if (total === 0 || last < first) return outline ? messages.noLines : messages.noRows;
    const [from, to] = [count(first + 1), count(Math.min(last + 1, total))];
    if (searched) return messages.rows(from, to, undefined);
    if (open) return `${messages.rows(from, to, undefined)}, ${messages.moreToCome}`;
    const all = totalKind === 'estimate' ? messages.nearly(count(total)) : count(total);
    return outline ? messages.lines(from, to, all) : messages.rows(from, to, all);
  };
  return (
    <>
      <span role="status" data-testid="position">
        {(quiet || progress !== undefined) && total === undefined ? '' : text()}
      </span>
      {progress !== undefined && scan.state === 'ready' && (
        <scan.result.ScanLine scan={progress} row={first} />
      )}
    </>
  );
}

/** Opens and closes what happened. */
export function HappensButton({ open, setOpen }: Happens): ReactElement {
  const { messages } = useModel().reader;
  return (
    <button
      type="button"
      className="eph-offer eph-happens"
      aria-expanded={open}
      onClick={() => setOpen(!open)}
    >
      {messages.requestLog}
    </button>
  );
}

/** What went wrong with rows that are looked at, and what happens next. */
function Trouble({ records }: { readonly records: Drawn }): ReactElement | null {
  const { error, status, retryAt, retry } = records;
  const { messages } = useModel().reader;
  if (error === undefined) return null;
  return (
    <span role="alert" className="eph-trouble">
      {status === 'retrying' ? '' : `${messages.someNotShown} `}
      {messages.translate(error.message)} {retryAt !== undefined && <Countdown until={retryAt} />}{' '}
      <button type="button" onClick={retry}>
        {status === 'retrying' ? messages.tryNow : messages.tryAgain}
      </button>
    </span>
  );
}
