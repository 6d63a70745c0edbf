import { browserStores, listIn, putFirst, useStored } from '@ephoros/react';
import { useMemo } from 'react';

const recentKey = 'ephoros.seen';
const favouritesKey = 'ephoros.favourites';

/** Tables that are remembered as seen. */
const mostRecent = 6;

/** Notes that a table was looked at. */
export function noteRecent(table: string): void {
  putFirst(recentKey, table, mostRecent);
}

/** The tables that were looked at, the last one first. */
export function useRecent(): readonly string[] {
  const [text] = useStored(browserStores, recentKey);
  return useMemo(() => listIn(text), [text]);
}

/** The tables that the reader wants first, and what puts one among them or takes it away. */
export function useFavourites(): readonly [readonly string[], (table: string) => void] {
  const [text, keep] = useStored(browserStores, favouritesKey);
  const names = useMemo(() => listIn(text), [text]);
  const turn = (table: string): void => {
    const others = names.filter((one) => one !== table);
    keep(JSON.stringify(others.length < names.length ? others : [...names, table]));
  };
  return [names, turn];
}
