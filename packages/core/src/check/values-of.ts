import { and, childrenOf, type Expression } from '../expression/index.ts';
import { inParameter, problem, type Problem } from '../problem/index.ts';
import { termOf, termsOf, type Query } from '../query/index.ts';
import { isMeasured, type TableDescription } from '../schema/index.ts';
import type { CheckedGrouping } from './checked.ts';
import { checkGrouping } from './grouping.ts';
import { checkQuery, type CheckOptions } from './query.ts';

/** A question for the values of one column. */
export interface CheckedValues {
  /** The values, each with its count: a grouping by the column alone. */
  readonly grouping: CheckedGrouping;
  /** Bins of the histogram, where one is requested and there is one. */
  readonly bins: number | undefined;
}

interface Requested {
  readonly column: string;
  /** Only values with this text in them, letter case ignored; all where it is empty. */
  readonly containing?: string | undefined;
  readonly bins?: number | undefined;
}

/**
 * Checks a question for the values that a column has under a query, without what the query says
 * about that column alone, so that a list to choose from stays complete.
 */
export function checkValuesOf(
  query: Query,
  { column, containing, bins }: Requested,
  table: TableDescription,
  options: CheckOptions = {},
): { readonly checked: CheckedValues } | { readonly problems: readonly Problem[] } {
  const place = { start: 0, end: column.length };
  const { filter, ...others } = query;
  const terms = termsOf(filter);
  const own = and(terms.filter((term) => isAbout(term, column)));
  const rest = and(terms.filter((term) => !isAbout(term, column)));
  const wanted: Query = {
    ...others,
    ...(rest && { filter: rest }),
    group: [termOf({ kind: 'property', name: column, span: place })],
  };
  const read = checkGrouping(wanted, table, options);
  // What is left out is checked all the same.
  const left = checkQuery({ ...(own && { filter: own }) }, table, options);
  const problems = [left, read].flatMap((one) => ('problems' in one ? one.problems : []));
  const type = 'checked' in read ? read.checked.levels[0]?.type : undefined;
  if (bins !== undefined && type !== undefined && !isMeasured(type)) {
    problems.push(...inParameter('bins', [problem('no-histogram', { name: column })]));
  }
  if (!('checked' in read) || problems.length > 0) {
    const named = problems.map((one) =>
      one.parameter === 'group' ? { ...one, parameter: 'column' } : one,
    );
    return { problems: named };
  }
  const grouping =
    containing === undefined || containing === '' ? read.checked : { ...read.checked, containing };
  return { checked: { grouping, bins } };
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
