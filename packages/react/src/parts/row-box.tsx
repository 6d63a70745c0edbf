import type { ReactElement } from 'react';
import { useLater } from '../later.ts';
import { boxes } from './loaded.ts';

interface RowBoxProps {
  readonly label: string;
  /** `some` of what stands for several rows. */
  readonly checked: boolean | 'some';
  readonly change: () => void;
  /** Whether one row at most is selected. */
  readonly single?: boolean;
}

/** A box in a cell, to select rows by. The keyboard comes to it by the grid's own keys. */
export function RowBox({ label, checked, change, single = false }: RowBoxProps): ReactElement {
  const loaded = useLater(boxes, !single);
  if (single) {
    return (
      <button
        type="button"
        role="radio"
        className="eph-box eph-round"
        tabIndex={-1}
        aria-label={label}
        aria-checked={checked === true}
        onClick={change}
      />
    );
  }
  // Its room is there from the start.
  if (loaded.state !== 'ready') return <span className="eph-box" />;
  return <loaded.result.Box tabIndex={-1} aria-label={label} checked={checked} change={change} />;
}
