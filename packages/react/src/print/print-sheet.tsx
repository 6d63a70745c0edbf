import type { OutlineSource, RowSource } from '@ephoros/client';
import { useEffect, useState, type ReactElement, type ReactNode } from 'react';
import { createPortal } from 'react-dom';
import { formatText } from '../format/value.ts';
import type { PrintMessages } from '../messages/print-messages.ts';
import { useCount, useModel, useRowsOf } from '../parts/table-context.ts';
import { useFixed } from '../parts/use-fixed.ts';
import { sentenceText } from '../sentence/sentence.ts';
import type { TableColumn } from '../table/column.ts';
import { isOutline, rowAt } from '../table/row-at.ts';

/** Rows that are printed at most: some fifty sheets of paper. */
const mostPrinted = 2_000;

interface PrintSheetProps {
  readonly columns: readonly TableColumn[];
  readonly messages: PrintMessages;
  /** Nothing is printed any more. */
  readonly done: () => void;
}

/** The whole result of a view, as a page has it: read first, then passed to the browser. */
export function PrintSheet({ columns, messages, done }: PrintSheetProps): ReactElement {
  const model = useModel();
  const records = useRowsOf();
  const { reader } = model;
  const count = useCount();
  const fixed = useFixed();
  const { source, total = 0, column, reading, view, table } = records;
  const wanted = Math.min(total, mostPrinted);
  const reached = useReached(source, wanted);
  const isReady = reached === wanted;
  useEffect(() => {
    if (!isReady) return undefined;
    window.addEventListener('afterprint', done, { once: true });
    window.print();
    return () => window.removeEventListener('afterprint', done);
  }, [isReady, done]);
  if (!isReady) {
    const failed = reached === 'failed';
    return (
      <p className="eph-print-note" role={failed ? 'alert' : 'status'}>
        {failed ? messages.failed : messages.preparing(count(reached), count(wanted))}{' '}
        <button type="button" className="eph-offer" onClick={done}>
          {messages.cancel}
        </button>
      </p>
    );
  }
  const shown = columns.filter(({ name }) => name !== '');
  const title = sentenceText(view, model.table, {
    show: (value, of) => (of === undefined ? value : formatText(value, of, reader)),
    count,
    column,
    reading,
    messages: reader.messages,
    fixed,
  });
  const time = new Date().toLocaleString(reader.locale, { timeZone: reader.timeZone });
  return createPortal(
    <div
      className="eph-view eph-print"
      dir={reader.messages.direction}
      lang={reader.messages.language}
    >
      <h1>{title || table.title}</h1>
      <p>
        {total > wanted ? `${messages.cut(count(wanted), count(total))} ` : ''}
        {messages.printedAt(time)}
      </p>
      <table>
        <thead>
          <tr>
            {shown.map(({ name, label, align }) => (
              <th key={name} scope="col" data-align={align}>
                {label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {Array.from({ length: wanted }, (_, position) => (
            <tr key={position}>
              {shown.map((one) => (
                <td key={one.name} data-align={one.align}>
                  {cellOf(one, source, position)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>,
    document.body,
  );
}

function cellOf(
  column: TableColumn,
  source: RowSource | OutlineSource,
  position: number,
): ReactNode {
  const line = isOutline(source) ? source.row(position) : undefined;
  if (line?.kind === 'group') {
    return (
      <span style={{ paddingInlineStart: column.outline === true ? line.depth * 16 : 0 }}>
        {column.group?.(line.line, line.depth, position)}
      </span>
    );
  }
  const row = rowAt(source, position);
  if (row === undefined || column.outline === true) return null;
  return column.render?.(row[column.name] ?? null, row);
}

/** How many of the first rows are there by now; all of them are requested. */
function useReached(source: RowSource | OutlineSource, wanted: number): number | 'failed' {
  const [reached, setReached] = useState<number | 'failed'>(0);
  useEffect(() => {
    const check = (): void => {
      if (source.state().status === 'failed') setReached('failed');
      let first = 0;
      while (first < wanted && isThere(source, first)) first += 1;
      setReached((last) => (last === 'failed' ? last : first));
    };
    const stop = source.subscribe(check);
    source.setVisibleRows(0, wanted);
    check();
    return stop;
  }, [source, wanted]);
  return reached;
}

function isThere(source: RowSource | OutlineSource, position: number): boolean {
  if (!isOutline(source)) return source.row(position) !== undefined;
  const line = source.row(position);
  return line !== undefined && line.kind !== 'missing';
}
