import { parseSearch, printSearch } from '@ephoros/core/query';
import { changed, type View } from '@ephoros/core/view';
import { useCallback, useState } from 'react';
import type { ChangeView } from './use-view.ts';

/**
 * The search of a view as it was typed: a blank at the end or an open quote says nothing yet, and
 * is stored all the same. Another search from elsewhere takes its place.
 */
export function useSearch(
  { search = [] }: View,
  change: ChangeView,
): readonly [string, (text: string) => void] {
  const [typed, setTyped] = useState('');
  const path = printSearch(search);
  const set = useCallback(
    (text: string) => {
      setTyped(text);
      const words = parseSearch(text);
      const next = words.length === 0 ? undefined : words;
      change((view) =>
        printSearch(view.search ?? []) === printSearch(words)
          ? view
          : changed(view, { search: next, place: undefined }),
      );
    },
    [change],
  );
  return [printSearch(parseSearch(typed)) === path ? typed : path, set];
}
