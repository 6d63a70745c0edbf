import type { ReactNode } from 'react';

/** How a drafted cell is marked. */
export interface CellMark {
  readonly kind?: 'changed' | 'wrong' | 'conflict';
  /** What it was before, as people read it. */
  readonly before?: string;
  /** What somebody else has made of it meanwhile. */
  readonly theirs?: string;
  /** What is wrong with it. */
  readonly message?: string;
}

/** How a drafted row is marked. */
export interface RowMarks {
  readonly kind: 'added' | 'changed' | 'struck';
  readonly cells: Readonly<Record<string, CellMark>>;
  /** What is stated about the row. */
  readonly message?: string;
}

/** What an element of a drafted cell has. */
export function markOf(mark: CellMark | undefined): object {
  if (mark === undefined) return {};
  const { kind, message } = mark;
  return { 'data-draft': kind, 'aria-invalid': kind === 'wrong' || undefined, title: message };
}

/** A drafted cell: the value before it is struck, the value of somebody else stands below. */
export function marked(drawn: ReactNode, mark: CellMark | undefined): ReactNode {
  if (mark === undefined) return drawn;
  const { before, theirs, message } = mark;
  return (
    <>
      {before !== undefined && <del className="eph-before">{before}</del>}
      {drawn}
      {theirs !== undefined && <span className="eph-theirs">{theirs}</span>}
      {message !== undefined && <span className="eph-unseen">{message}</span>}
    </>
  );
}
