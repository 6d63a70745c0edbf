import type { CheckedQuery } from '@ephoros/core/check';
import type { TotalKind } from '@ephoros/core/query';
import type { Asked } from '../question/index.ts';
import { countingOf, type KnownTotal } from '../survey/index.ts';

/**
 * How many rows match, as far as it can be told within so many ms. What the planner guesses, it
 * guesses from all rows: nobody is told it who may not see them all.
 */
export async function totalWithin(
  patience: number,
  query: CheckedQuery,
  kind: Exclude<TotalKind, 'none'>,
  { catalog, surveyor }: Pick<Asked, 'catalog' | 'surveyor'>,
  signal?: AbortSignal,
): Promise<KnownTotal | undefined> {
  const counting = countingOf(query, catalog.locate);
  const wanted = catalog.ruled ? 'exact' : kind;
  const total = await surveyor.total(counting, wanted, patience, signal);
  return catalog.ruled && total?.kind === 'estimate' ? undefined : total;
}
