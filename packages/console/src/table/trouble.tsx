import type { SourceState } from '@ephoros/client';
import type { ReactElement } from 'react';
import { Countdown } from './countdown.tsx';

interface TroubleProps {
  readonly state: SourceState;
  readonly retry: () => void;
}

/** What went wrong with rows that are looked at, and what happens next. */
export function Trouble({ state, retry }: TroubleProps): ReactElement | null {
  const { error, status, retryAt } = state;
  if (error === undefined) return null;
  return (
    <span role="alert" className="text-fault">
      {status === 'retrying' ? '' : 'Some rows could not be loaded: '}
      {error.message} {retryAt !== undefined && <Countdown until={retryAt} />}{' '}
      <button type="button" className="cursor-pointer underline" onClick={retry}>
        {status === 'retrying' ? 'Try now' : 'Try again'}
      </button>
    </span>
  );
}
