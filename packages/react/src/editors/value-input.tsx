import { isNumeric, type ColumnDescription } from '@ephoros/core/schema';
import type { ReactElement } from 'react';
import { useModel } from '../parts/table-context.ts';
import { MomentInput } from './moment-input.tsx';

interface ValueInputProps {
  readonly label: string;
  readonly column: ColumnDescription;
  readonly value: string;
  readonly change: (value: string) => void;
}

/** The field of a value, by the type of its column: in the notation of a condition. */
export function ValueInput({ label, column, value, change }: ValueInputProps): ReactElement {
  const { type } = column;
  const { timeZone } = useModel().reader;
  return (
    <label className="eph-labelled">
      <span>{label}</span>
      {type.kind === 'timestamp' ? (
        <MomentInput zone={type.zone ? timeZone : 'UTC'} value={value} change={change} />
      ) : (
        <input
          className="eph-field"
          type={type.kind === 'date' ? 'date' : 'text'}
          inputMode={isNumeric(type) ? 'decimal' : undefined}
          autoComplete="off"
          value={value}
          onChange={({ target }) => change(target.value)}
        />
      )}
    </label>
  );
}
