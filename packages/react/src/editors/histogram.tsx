import type { OnProgress, Value, ValuesAnswer } from '@ephoros/client';
import type { ColumnDescription } from '@ephoros/core/schema';
import { useCallback, type ReactElement } from 'react';
import { formatAlike } from '../format/alike.ts';
import { plainText } from '../format/value.ts';
import { useCount, useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { Unanswered } from './unanswered.tsx';

interface HistogramProps {
  readonly column: ColumnDescription;
  /** The range that is set, in the notation of a condition; an empty end is open. */
  readonly from: string;
  readonly to: string;
  readonly choose: (from: string, to: string) => void;
}

const bins = 24;

/** How the values of a column are spread under the view; a bar sets the range to its bin. */
export function Histogram({ column, from, to, choose }: HistogramProps): ReactElement {
  const { request, match, reader } = useModel();
  const { name } = column;
  const query = useCallback(
    async (signal: AbortSignal, onProgress: OnProgress) =>
      request?.values?.(name, { ...match, limit: 1 }, { bins }, signal, onProgress),
    [request, match, name],
  );
  const answer = useAnswer(query);
  const { editors } = reader.messages;
  if (answer.state !== 'ready') return <Unanswered answer={answer} what={editors.readingValues} />;
  const { range, histogram = [] } = answer.result ?? {};
  if (range === null || range === undefined) {
    return <p className="eph-aside">{editors.nothingHere}</p>;
  }
  return (
    <div className="eph-spread">
      <Bars
        histogram={histogram}
        column={column}
        within={(bin) =>
          (from === '' || at(bin.to) > at(from)) && (to === '' || at(bin.from) < at(to))
        }
        choose={choose}
      />
      <p className="eph-ends">
        {formatAlike([range.least, range.greatest], column, reader).map((end, index) => (
          <span key={index}>{end}</span>
        ))}
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
  const { reader } = useModel();
  const written = useCount();
  const { editors } = reader.messages;
  const ends = [...histogram.map(({ from }) => from), histogram.at(-1)?.to ?? null];
  const edges = formatAlike(ends, column, reader);
  const most = Math.max(1, ...histogram.map(({ count }) => count));
  return (
    <div className="eph-bars" role="group" aria-label={editors.spread}>
      {histogram.map((bin, index) => {
        const { from, to, count } = bin;
        const [low = '', high = ''] = [edges[index], edges[index + 1]];
        const text = editors.bar(low, high, written(count));
        return (
          <button
            key={plainText(from)}
            type="button"
            title={text}
            aria-label={text}
            data-within={within(bin)}
            onClick={() => choose(plainText(from), plainText(to))}
          >
            {/* What is there at all is seen. */}
            <span style={{ height: `${count === 0 ? 0 : Math.max(2, (100 * count) / most)}%` }} />
          </button>
        );
      })}
    </div>
  );
}

/** A place on the line of numbers, or of time. */
function at(value: Value): number {
  const text = plainText(value);
  return /^-?[\d.]+(?:e[+-]?\d+)?$/i.test(text) ? Number(text) : Date.parse(text);
}
