import { printParameters } from '@ephoros/client';

/** Columns as the parameter spells them. */
export function namedColumns(names: readonly string[]): string {
  const columns = names.map((name) => ({ name, span: { start: 0, end: 0 } }));
  return Object.fromEntries(printParameters({ columns })).columns ?? '';
}
