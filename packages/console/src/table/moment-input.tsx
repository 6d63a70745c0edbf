import { momentAt, wallAt } from '@ephoros/core/moment';
import type { ReactElement } from 'react';

interface MomentInputProps {
  /** The time zone whose clock is typed. */
  readonly zone: string;
  /** A day, which is the whole day, or a moment in RFC 3339; empty for none. */
  readonly value: string;
  readonly change: (value: string) => void;
}

/** A day, and the time of day where the whole day is not meant. */
export function MomentInput({ zone, value, change }: MomentInputProps): ReactElement {
  const [day = '', time = ''] = value.includes('T')
    ? (wallAt(value, zone)?.split('T') ?? [])
    : [value];
  const put = (newDay: string, newTime: string): void => {
    const moment = newDay === '' ? '' : momentAt(`${newDay}T${newTime}`, zone);
    change(newDay === '' || newTime === '' ? newDay : (moment ?? newDay));
  };
  return (
    <span className="flex min-w-0 grow gap-2">
      <input
        className="field min-w-0 grow tabular-nums"
        type="date"
        autoComplete="off"
        value={day}
        onChange={({ target }) => put(target.value, time)}
      />
      <input
        className="field w-28 tabular-nums"
        type="time"
        aria-label="time of day; the whole day without one"
        title="The time of day; without one the whole day is meant."
        value={time.slice(0, 5)}
        onChange={({ target }) => put(day, target.value)}
      />
    </span>
  );
}
