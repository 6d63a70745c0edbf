import type { AggregatesAnswer } from '@ephoros/client';
import type { Term } from '@ephoros/core/query';
import type { ReactNode } from 'react';
import { percentDone } from '../format/percent.ts';
import type { FullReader } from '../format/value.ts';
import type { Answer } from '../use-answer.ts';
import { AggregateCell } from './aggregate-cell.tsx';

/** Draws aggregates of the whole result in the foot of the table; undefined where there are none. */
export function footOf(
  totals: Answer<AggregatesAnswer | undefined> | undefined,
  terms: readonly Term[],
  reader: FullReader,
): (() => ReactNode) | undefined {
  if (totals === undefined) return undefined;
  return () => {
    if (terms.length === 0) return null;
    if (totals.state === 'failed') {
      return (
        <button type="button" className="eph-trouble" onClick={totals.retry}>
          {reader.messages.tryAgain}
        </button>
      );
    }
    if (totals.state === 'loading') {
      const percent = percentDone(totals.share, reader.locale);
      return <span className="eph-aside">…{percent !== undefined && ` ${percent} %`}</span>;
    }
    if (totals.result === undefined) return <span className="eph-aside">…</span>;
    const { aggregates, values } = totals.result;
    return <AggregateCell terms={terms} columns={aggregates} values={values} reader={reader} />;
  };
}
