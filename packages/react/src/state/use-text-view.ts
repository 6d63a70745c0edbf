import { printView, readView } from '@ephoros/core/view';
import { useMemo } from 'react';
import type { AddressView } from './use-address-view.ts';
import { textsIn } from './view-texts.ts';

/**
 * A view that is stored as a query string of its own, such as of a second table next to the first one
 * in the address. Give what comes back to a table.
 */
export function useTextView(search: string, put: (search: string) => void): AddressView {
  const texts = useMemo(() => textsIn(search), [search]);
  const { view, problems } = useMemo(() => readView(texts), [texts]);
  return {
    view,
    problems,
    texts,
    onViewChange: (next) => put(new URLSearchParams(printView(next)).toString()),
  };
}
