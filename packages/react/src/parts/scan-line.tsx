import type { ScanProgress } from '@ephoros/client';
import type { ReactElement } from 'react';
import { percentDone } from '../format/percent.ts';
import { useMessages } from '../messages/use-messages.ts';
import { isOutline } from '../table/row-at.ts';
import { useAnswer } from '../use-answer.ts';
import { useCount, useLocale, useRowsOf } from './table-context.ts';

interface ScanProps {
  readonly scan: ScanProgress;
  /** The first row that is looked at, counted from 0. */
  readonly row: number;
}

/** How far the service is with what takes long; a result that is looked through can be left as it is. */
export function ScanLine({ scan, row }: ScanProps): ReactElement | null {
  const messages = useMessages();
  const { source, retry, total = 0 } = useRowsOf();
  const count = useCount();
  const locale = useLocale();
  const words = useAnswer(messages.scanMessages);
  if (words.state !== 'ready') return null;
  const { finding, grouping, found, stop, goOn, stopped } = words.result;
  if (scan.kind === 'finding') {
    const so = percentDone(scan.share, locale);
    return (
      <span role="status" className="eph-looking" data-testid="looking">
        {isOutline(source) ? grouping(so) : finding(count(row + 1), so)}
      </span>
    );
  }
  const { rows, of } = scan;
  return (
    <span className="eph-looking" data-testid="looking">
      <progress max={of} value={rows} aria-label={messages.loading} />
      <span role="status">{found(count(total), count(rows), count(of))}</span>
      {scan.stopped ? (
        <>
          <span>({stopped})</span>
          <button type="button" className="eph-offer" onClick={retry}>
            {goOn}
          </button>
        </>
      ) : (
        source.stop !== undefined && (
          <button type="button" className="eph-offer" onClick={source.stop}>
            {stop}
          </button>
        )
      )}
    </span>
  );
}

/** In place of rows, until the first one is found. */
export function NothingYet(): ReactElement | null {
  const messages = useAnswer(useMessages().scanMessages);
  if (messages.state !== 'ready') return null;
  return (
    <p className="eph-note-title" data-testid="nothing-yet">
      {messages.result.nothingYet}
    </p>
  );
}
