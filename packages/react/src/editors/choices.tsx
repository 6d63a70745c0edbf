import { RadioGroup } from 'radix-ui';
import { useId, type ReactElement, type ReactNode } from 'react';
import { Box } from './box.tsx';

interface TickProps {
  /** `some` of what stands for several. */
  readonly checked: boolean | 'some';
  readonly change: (checked: boolean) => void;
  readonly children: ReactNode;
}

/** A box to tick, and what it means. */
export function Tick({ checked, change, children }: TickProps): ReactElement {
  const id = useId();
  return (
    <div className="eph-choice">
      <Box id={id} checked={checked} change={change} />
      <label htmlFor={id}>{children}</label>
    </div>
  );
}

interface ChoicesProps<Value extends string> {
  readonly label: string;
  readonly values: readonly { readonly value: Value; readonly text: string }[];
  readonly chosen: Value | '';
  readonly change: (value: Value) => void;
  /** Next to each other, instead of one below the other. */
  readonly inLine?: boolean;
}

/** Some things of which one holds. */
export function Choices<Value extends string>(props: ChoicesProps<Value>): ReactElement {
  const { label, values, chosen, change, inLine = false } = props;
  return (
    <RadioGroup.Root
      className={inLine ? 'eph-choices eph-in-line' : 'eph-choices'}
      aria-label={label}
      value={chosen}
      onValueChange={(value) => change(value as Value)}
    >
      {values.map(({ value, text }) => (
        <RadioGroup.Item key={value} value={value} className="eph-radio">
          {text}
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}
