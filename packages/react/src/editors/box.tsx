import { Checkbox } from 'radix-ui';
import type { ReactElement } from 'react';

interface BoxProps {
  readonly id?: string;
  readonly 'aria-label'?: string;
  readonly tabIndex?: number;
  /** `some` of what stands for several. */
  readonly checked: boolean | 'some';
  readonly change: (checked: boolean) => void;
}

/** A box to tick. */
export function Box({ checked, change, ...attributes }: BoxProps): ReactElement {
  return (
    <Checkbox.Root
      {...attributes}
      className="eph-box"
      checked={checked === 'some' ? 'indeterminate' : checked}
      onCheckedChange={(next) => change(next === true)}
    >
      <Checkbox.Indicator className="eph-tick" />
    </Checkbox.Root>
  );
}
