import type { CallerAnswer } from '@ephoros/core/answer';
import { createContext, useContext } from 'react';

/** Who reads this page, and how they leave. */
export interface Reader {
  /** Undefined as long as nobody has stated it. */
  readonly caller: CallerAnswer | undefined;
  readonly signOut: () => Promise<void>;
}

export const ReaderContext = createContext<Reader>({
  caller: undefined,
  signOut: () => Promise.resolve(),
});

export function useReader(): Reader {
  return useContext(ReaderContext);
}
