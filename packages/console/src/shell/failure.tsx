import { ServiceError } from '@ephoros/client';
import type { ReactElement, ReactNode } from 'react';

/** Says why something could not be had, with a way to try again. */
export function FailureNote({
  error,
  retry,
  children,
}: {
  error: Error;
  retry?: (() => void) | undefined;
  /** What is said besides. */
  children?: ReactNode;
}): ReactElement {
  const id = error instanceof ServiceError ? error.requestId : undefined;
  return (
    <div role="alert" className="max-w-2xl">
      <p className="font-serif text-2xl text-fault">This could not be loaded.</p>
      <p className="mt-2">{error.message}</p>
      {id !== undefined && <p className="mt-1 text-sm text-faint">Request {id}</p>}
      {children}
      {retry !== undefined && (
        <button type="button" className="plate mt-4" onClick={retry}>
          Try again
        </button>
      )}
    </div>
  );
}
