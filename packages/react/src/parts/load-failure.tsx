import type { ReactElement } from 'react';
import { useMessages } from '../messages/use-messages.ts';

/** In place of a part of the table's scripts that could not be loaded. */
export function LoadFailure({ retry }: { readonly retry: () => void }): ReactElement {
  const { notShown, tryAgain } = useMessages();
  return (
    <span role="alert" className="eph-trouble">
      {' '}
      {notShown}{' '}
      <button type="button" onClick={retry}>
        {tryAgain}
      </button>
    </span>
  );
}
