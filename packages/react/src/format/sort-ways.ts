import type { ColumnType } from '@ephoros/core/schema';
import type { Messages } from '../messages/messages.ts';

/** What ascending and descending are called for values of a type: text sorts "A to Z". */
export function sortWays(
  { sortWays: ways }: Messages,
  type: ColumnType | undefined,
): readonly [string, string] {
  switch (type?.kind) {
    case 'text':
      return ways.text;
    case 'date':
    case 'time':
    case 'timestamp':
      return ways.time;
    case 'integer':
    case 'numeric':
    case 'float':
      return ways.number;
    default:
      return ways.other;
  }
}
