import { useState } from 'react';

/**
 * A value that is made again at every drawing, as the one object that it was when its text last
 * changed, so that what depends on it is not begun again.
 */
export function useSame<Value>(value: Value, text: string): Value {
  const [held, setHeld] = useState({ value, text });
  if (held.text === text) return held.value;
  setHeld({ value, text });
  return value;
}
