import { useCallback, useLayoutEffect, useRef } from 'react';

/**
 * A function that stays the same and calls the one that was given last, so that a program's
 * callbacks may be made again at every drawing without anything beginning again.
 */
export function useLatest<Args extends readonly unknown[]>(
  callback: ((...args: Args) => void) | undefined,
): (...args: Args) => void {
  const latest = useRef(callback);
  useLayoutEffect(() => {
    latest.current = callback;
  });
  return useCallback((...args: Args) => latest.current?.(...args), []);
}
