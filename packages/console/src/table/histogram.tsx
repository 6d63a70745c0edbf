import type { Value, ValuesAnswer } from '@ephoros/client';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { formatText } from '@ephoros/react';
import { useCallback, type ReactElement } from 'react';
import { useAnswer } from '../answer.ts';
import { client, reader } from '../service.ts';
import type { View } from './view-state.ts';

interface HistogramProps {
  readonly view: View;
  readonly table: TableDescription;
  readonly column: ColumnDescription;
  /** The range that is set, in the notation of a condition; an empty end is open. */
  readonly from: string;
  readonly to: string;
  readonly choose: (from: string, to: string) => void;
}

const bins = 24;

/** How the values of a column are spread under the view; a bar sets the range to its bin. */
export function Histogram(props: HistogramProps): ReactElement | null {
  const { view, table, column, from, to, choose } = props;
  const { filter, search } = view.texts;
  const ask = useCallback(
    (signal: AbortSignal) => {
      const { filter: where, search: words } = view.query;
      const query = { ...(where && { filter: where }), ...(words && { search: words }), limit: 1 };
      return client.values(table.name, column.name, query, { bins }, signal);
    },
    // The texts stand for the query, which is made anew with every change.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [table, column.name, filter, search],
  );
  const answer = useAnswer(ask);
  if (answer.state === 'loading') {
    return <p className="h-24 text-sm text-faint">reading the values …</p>;
  }
  if (answer.state === 'failed') {
    return (
      <p role="alert" className="max-w-72 text-sm text-fault">
        {answer.error.message}{' '}
        <button type="button" className="cursor-pointer underline" onClick={answer.retry}>
          Try again
        </button>
      </p>
    );
  }
  const { range, histogram = [] } = answer.result;
  if (range === null || range === undefined) {
    return <p className="text-sm text-faint">no row has a value here</p>;
  }
  return (
    <div className="mb-3 w-72">
      <Bars
        histogram={histogram}
        column={column}
        within={(bin) =>
          (from === '' || at(bin.to) > at(from)) && (to === '' || at(bin.from) < at(to))
        }
        choose={choose}
      />
      <p className="flex justify-between text-xs text-faint tabular-nums">
        <span>{formatText(range.least, column, reader)}</span>
        <span>{formatText(range.greatest, column, reader)}</span>
      </p>
    </div>
  );
}

type Bin = NonNullable<ValuesAnswer['histogram']>[number];

interface BarsProps {
  readonly histogram: readonly Bin[];
  readonly column: ColumnDescription;
  readonly within: (bin: Bin) => boolean;
  readonly choose: (from: string, to: string) => void;
}

function Bars({ histogram, column, within, choose }: BarsProps): ReactElement {
  const most = Math.max(1, ...histogram.map(({ count }) => count));
  return (
    <div
      className="flex h-20 items-end gap-px border-b border-ink"
      role="group"
      aria-label="Spread"
    >
      {histogram.map((bin) => {
        const { from, to, count } = bin;
        const [low, high] = [from, to].map((one) => formatText(one, column, reader));
        const said = `${low ?? ''} to ${high ?? ''}: ${count.toLocaleString(reader.locale)}`;
        return (
          <button
            key={textOf(from)}
            type="button"
            title={said}
            aria-label={said}
            data-within={within(bin)}
            className="flex h-full min-w-0 grow cursor-pointer items-end data-[within=false]:opacity-40"
            onClick={() => choose(textOf(from), textOf(to))}
          >
            <span
              className="block w-full bg-amber hover:bg-ink"
              // What is there at all is seen.
              style={{ height: `${count === 0 ? 0 : Math.max(2, (100 * count) / most)}%` }}
            />
          </button>
        );
      })}
    </div>
  );
}

/** A place on the line of numbers, or of time. */
function at(value: Value): number {
  const text = textOf(value);
  return /^-?[\d.]+(?:e[+-]?\d+)?$/i.test(text) ? Number(text) : Date.parse(text);
}

function textOf(value: Value): string {
  return typeof value === 'string' ? value : JSON.stringify(value);
}
