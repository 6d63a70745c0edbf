import { listIn, putFirst } from './stored-list.ts';
import { browserStores } from './stores.ts';

/** Conditions that are remembered of a table. */
const most = 8;

function keyOf(table: string): string {
  return `ephoros.conditions.${table}`;
}

/** The conditions of a table that were requested before in this browser, the last one first; as texts. */
export function recentConditions(table: string): readonly string[] {
  return listIn(browserStores.read(keyOf(table)));
}

/** Remembers that a condition was used. */
export function noteCondition(table: string, text: string): void {
  if (table !== '' && text !== '') putFirst(keyOf(table), text, most);
}
