import { and, childrenOf, type Expression } from '../expression/index.ts';
import { inParameter, problem, type Problem } from '../problem/index.ts';
import { termOf, termsOf, type Query } from '../query/index.ts';
import { isNumeric, type TableDescription } from '../schema/index.ts';
import type { CheckedGrouping } from './checked.ts';
import { checkGrouping } from './grouping.ts';
import type { CheckOptions } from './query.ts';

/** A question for the values of one column. */
export interface CheckedValues {
  /** The values, each with its count: a grouping by the column alone. */
  readonly grouping: CheckedGrouping;
  /** Bins of the histogram, where one is asked for and there is one. */
  readonly bins: number | undefined;
}

interface Asked {
  readonly column: string;
  /** Only values with this text in them, letter case ignored. */
  readonly containing?: string | undefined;
  readonly bins?: number | undefined;
}

/**
 * Checks a question for the values that a column has under a query, without what the query says
 * about that column alone, so that a list to choose from stays complete.
 */
export function checkValuesOf(
  query: Query,
  { column, containing, bins }: Asked,
  table: TableDescription,
  options: CheckOptions = {},
): { readonly checked: CheckedValues } | { readonly problems: readonly Problem[] } {
  const place = { start: 0, end: column.length };
  const { filter, ...others } = query;
  const rest = and(termsOf(filter).filter((term) => !isAbout(term, column)));
  const asked: Query = {
    ...others,
    ...(rest && { filter: rest }),
    group: [termOf({ kind: 'property', name: column, span: place })],
  };
  const read = checkGrouping(asked, table, options);
  const [level] = 'checked' in read ? read.checked.levels : [];
  const problems =
    'problems' in read
      ? read.problems.map((one) =>
          one.parameter === 'group' ? { ...one, parameter: 'column' } : one,
        )
      : [];
  const type = level?.type;
  const measured = type && (isNumeric(type) || type.kind === 'date' || type.kind === 'timestamp');
  const odd: Problem[] = [];
  if (bins !== undefined && measured === false) {
    odd.push(...inParameter('bins', [problem('no-histogram', { name: column })]));
  }
  // What is left out is checked all the same.
  const left = filter && checkGrouping({ group: asked.group ?? [], filter }, table, options);
  const inFilter = left && 'problems' in left ? left.problems : [];
  const all = [
    ...inFilter.filter(isInFilter),
    ...problems.filter((one) => !isInFilter(one)),
    ...odd,
  ];
  if (!('checked' in read) || all.length > 0) return { problems: all };
  const grouping = containing === undefined ? read.checked : { ...read.checked, containing };
  return { checked: { grouping, bins } };
}

function isInFilter({ parameter }: Problem): boolean {
  return parameter === 'filter';
}

/** Whether a condition speaks of this column and of no other. */
function isAbout(expression: Expression, name: string): boolean {
  const names = namesIn(expression);
  return names.length > 0 && names.every((one) => one === name);
}

function namesIn(expression: Expression): readonly string[] {
  if (expression.kind === 'property') return [expression.name];
  return childrenOf(expression).flatMap(namesIn);
}
