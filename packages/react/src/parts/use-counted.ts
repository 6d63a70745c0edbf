import { useMessages } from '../messages/use-messages.ts';
import { useCount } from './table-context.ts';

/** Writes a number of rows: "about" so many where they are not counted, "…" while nothing is known. */
export function useCounted(): (count: number | undefined, kind: string) => string {
  const { nearly } = useMessages();
  const written = useCount();
  return (count, kind) => {
    if (count === undefined) return '…';
    return kind === 'exact' ? written(count) : nearly(written(count));
  };
}
