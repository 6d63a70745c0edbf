import type { ResultColumn } from './description.ts';

/** What a value of a column is called, by its text; undefined where it has no name but its own. */
export function valueLabelOf(
  text: string,
  column: Pick<ResultColumn, 'valueLabels'> | undefined,
): string | undefined {
  const labels = column?.valueLabels ?? {};
  return Object.hasOwn(labels, text) ? labels[text] : undefined;
}
