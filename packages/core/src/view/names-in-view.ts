import { groupingOf } from './chart.ts';
import { namesIn, namesOf } from './names.ts';
import type { View } from './view.ts';

/** The names of all columns that a view needs to know of: also those of its paint and its chart. */
export function namesInView(view: View): readonly string[] {
  const { paint = [], chart } = view;
  const painted = paint.flatMap((rule) => [
    ...(rule.column === undefined ? [] : [rule.column]),
    ...(rule.kind === 'tone' ? namesOf(rule.when) : []),
  ]);
  const charted = chart === undefined ? [] : namesIn(groupingOf(chart));
  return [...new Set([...namesIn(view), ...painted, ...charted])];
}
