import { useEffect, useRef, useState } from 'react';
import { warnings } from './warnings.ts';

/** So many new values within so many ms, one at every drawing, are an error. */
const often = 25;
const within = 3_000;

/**
 * The value; but once it has been made again at every drawing for a while, the one it was then, so
 * that what depends on it does not begin again without end. The error is reported, once.
 */
export function useStable<Value>(name: string, value: Value): Value {
  const [held, setHeld] = useState<{ readonly value: Value }>();
  const observed = useRef({ value, count: 0, since: 0 });
  // eslint-disable-next-line react-hooks/exhaustive-deps -- every drawing is looked at; set once
  useEffect(() => {
    const { current } = observed;
    if (Object.is(current.value, value)) return;
    const now = performance.now();
    if (now - current.since > within) {
      current.count = 0;
      current.since = now;
    }
    current.value = value;
    current.count += 1;
    if (current.count < often) return;
    warnings.report(
      name,
      () =>
        `${name} is another one at every drawing (${often} times within ${within / 1000} seconds). Make it once: outside of the component, or with useMemo or useState; and change no state while drawing.`,
    );
    setHeld((last) => last ?? { value });
  });
  return held === undefined ? value : held.value;
}
