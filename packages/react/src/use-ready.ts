/** What came of promises; undefined for what was rejected. */
const settled = new WeakMap<Promise<unknown>, { readonly value: unknown }>();

/**
 * A value that may be on its way: the component waits for it, as React's Suspense has it. What is
 * rejected is undefined.
 */
export function useReady<Value extends object>(
  given: Value | Promise<Value> | undefined,
): Value | undefined {
  if (!(given instanceof Promise)) return given;
  const known = settled.get(given);
  if (known !== undefined) return known.value as Value | undefined;
  const keep = (value: unknown): void => {
    settled.set(given, { value });
  };
  // eslint-disable-next-line @typescript-eslint/only-throw-error -- how a component says that it waits
  throw given.then(keep, () => keep(undefined));
}
