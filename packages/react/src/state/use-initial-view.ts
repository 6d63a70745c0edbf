import type { Client } from '@ephoros/client';
import type { ViewAnswer } from '@ephoros/core/view';
import { useCallback } from 'react';
import { useAnswer } from '../use-answer.ts';
import { useLatest } from '../use-latest.ts';

/** Ms after which a page begins without a saved view. */
const waitLimit = 1_500;

/** What a page begins with. */
export interface InitialView {
  readonly client: Pick<Client, 'views'>;
  readonly table: string;
  /** The saved view that the page names; by default the one that its table opens with. */
  readonly id?: string | undefined;
  /** Whether it begins with one at all. */
  readonly wanted: boolean;
  /** Shows it: called before the page begins. */
  readonly begin: (view: ViewAnswer) => void;
}

/**
 * Whether a page has what it begins with, a saved view where there is one: the reader's own goes before
 * the one for all. It begins without one where that cannot be had soon: rows are more than how they
 * are shown.
 */
export function useInitialView({ client, table, id, wanted, begin }: InitialView): boolean {
  const show = useLatest(begin);
  const request = useCallback(
    async (gone: AbortSignal): Promise<void> => {
      const signal = AbortSignal.any([gone, AbortSignal.timeout(waitLimit)]);
      const views =
        id === undefined
          ? (await client.views.list({ table, first: true }, signal)).views
          : [await client.views.read(id, signal)];
      const found = views.find(({ shared }) => !shared) ?? views[0];
      if (found?.table === table && !gone.aborted) show(found);
    },
    [client, table, id, show],
  );
  return useAnswer(wanted ? request : undefined).state !== 'loading' || !wanted;
}
