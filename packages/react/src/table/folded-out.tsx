import type { ReactElement, ReactNode } from 'react';

interface FoldedOutProps {
  /** Of the row that it belongs to, in px from the top of the rows' layer. */
  readonly top: number;
  readonly rowHeight: number;
  readonly above: boolean;
  readonly children: ReactNode;
}

/** What is folded out under a row, or above it, over its neighbours. */
export function FoldedOut({ top, rowHeight, above, children }: FoldedOutProps): ReactElement {
  return (
    <div className="eph-under" style={{ top: above ? top : top + rowHeight }} data-above={above}>
      <div className="eph-under-slip">{children}</div>
    </div>
  );
}
