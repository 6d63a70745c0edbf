import { Checkbox } from 'radix-ui';
import type { ReactElement } from 'react';

interface RowBoxProps {
  readonly label: string;
  /** `some` of what stands for several rows. */
  readonly checked: boolean | 'some';
  readonly change: () => void;
}

/** A box in a cell, to select rows by. The keyboard comes to it by the grid's own keys. */
export function RowBox({ label, checked, change }: RowBoxProps): ReactElement {
  return (
    <Checkbox.Root
      className="eph-box"
      tabIndex={-1}
      aria-label={label}
      checked={checked === 'some' ? 'indeterminate' : checked}
      onCheckedChange={change}
    >
      <Checkbox.Indicator className="eph-tick" />
    </Checkbox.Root>
  );
}
