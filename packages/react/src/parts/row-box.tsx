import type { ReactElement } from 'react';
import { useLater } from '../later.ts';
import { boxes } from './loaded.ts';

interface RowBoxProps {
  readonly label: string;
  /** `some` of what stands for several rows. */
  readonly checked: boolean | 'some';
  readonly change: () => void;
}

/** A box in a cell, to select rows by. The keyboard comes to it by the grid's own keys. */
export function RowBox({ label, checked, change }: RowBoxProps): ReactElement {
  const loaded = useLater(boxes, true);
  // Its room is there from the start.
  if (loaded.state !== 'ready') return <span className="eph-box" />;
  return <loaded.result.Box tabIndex={-1} aria-label={label} checked={checked} change={change} />;
}
