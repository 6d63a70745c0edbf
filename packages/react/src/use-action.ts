import { useCallback, useState } from 'react';

/** An action that a person starts: on its way, and why it was not done. */
export interface PendingAction {
  readonly running: boolean;
  /** Why the last one failed; undefined while another is under way. */
  readonly error: Error | undefined;
  readonly run: (work: () => Promise<void>) => Promise<void>;
}

/** Keeps how something is getting on that a button does. */
export function useAction(): PendingAction {
  const [state, setState] = useState<Omit<PendingAction, 'run'>>({
    running: false,
    error: undefined,
  });
  const run = useCallback(async (work: () => Promise<void>): Promise<void> => {
    setState({ running: true, error: undefined });
    try {
      await work();
      setState({ running: false, error: undefined });
    } catch (thrown) {
      const error = thrown instanceof Error ? thrown : new Error(String(thrown));
      setState({ running: false, error });
    }
  }, []);
  return { ...state, run };
}
