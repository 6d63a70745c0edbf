import { useState } from 'react';

/** An object that is made again at every drawing, as the one that it was while its members are the same. */
export function useSameMembers<Value extends object>(value: Value): Value {
  const [held, setHeld] = useState(value);
  const members = Object.entries(value) as [keyof Value, unknown][];
  if (members.every(([name, member]) => Object.is(held[name], member))) return held;
  setHeld(value);
  return value;
}
