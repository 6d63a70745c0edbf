import { momentAt, wallAt } from '@ephoros/core/moment';
import type { ReactElement } from 'react';
import { useMessages } from '../messages/use-messages.ts';

interface MomentInputProps {
  /** The time zone whose clock is typed. */
  readonly zone: string;
  /** A day, which is the whole day, or a moment in RFC 3339; empty for none. */
  readonly value: string;
  readonly change: (value: string) => void;
}

/** A day, and the time of day where the whole day is not meant. */
export function MomentInput({ zone, value, change }: MomentInputProps): ReactElement {
  const { editors } = useMessages();
  const [day = '', time = ''] = value.includes('T')
    ? (wallAt(value, zone)?.split('T') ?? [])
    : [value];
  const put = (newDay: string, newTime: string): void => {
    const moment = newDay === '' ? '' : momentAt(`${newDay}T${newTime}`, zone);
    change(newDay === '' || newTime === '' ? newDay : (moment ?? newDay));
  };
  return (
    <span className="eph-moment">
      <input
        className="eph-field"
        type="date"
        autoComplete="off"
        value={day}
        onChange={({ target }) => put(target.value, time)}
      />
      <input
        className="eph-field eph-time"
        type="time"
        aria-label={editors.timeOfDay}
        title={editors.timeOfDayHint}
        value={time.slice(0, 5)}
        onChange={({ target }) => put(day, target.value)}
      />
    </span>
  );
}
