import type { ResolvedSelections } from '@ephoros/core/check';
import { storedSelectionIds } from '@ephoros/core/expression';
import type { Parameters } from '../query/index.ts';
import type { Engine } from './engine.ts';
import type { RequestContext } from './request-context.ts';

/** Stored selections that one question may name. */
const mostNamed = 20;

/** Whose selections a request may use: of nobody in particular where callers are not distinguished. */
export function ownerOf({ access }: RequestContext): string {
  return access?.caller ?? '';
}

/** The stored selections that a question names, read before it is checked. @throws Failure */
export async function cacheTime(
  { values }: Parameters,
  { selections }: Pick<Engine, 'selections'>,
  context: RequestContext,
): Promise<ResolvedSelections | undefined> {
  if (selections === undefined) return undefined;
  const ids = storedSelectionIds(Object.values(values)).slice(0, mostNamed);
  if (ids.length === 0) return () => 'unknown';
  const found = new Map(
    await Promise.all(
      ids.map(async (id) => [id, await selections.find(id, ownerOf(context))] as const),
    ),
  );
  return (id) => found.get(id) ?? 'unknown';
}
