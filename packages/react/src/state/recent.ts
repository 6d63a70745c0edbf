import { kept } from './stores.ts';

/** Conditions that are remembered of a table. */
const most = 8;

function keyOf(table: string): string {
  return `ephoros.conditions.${table}`;
}

/** The conditions of a table that were asked before in this browser, the last one first; as texts. */
export function recentConditions(table: string): readonly string[] {
  try {
    const read: unknown = JSON.parse(kept.read(keyOf(table)) || '[]');
    return Array.isArray(read) ? read.filter((one) => typeof one === 'string') : [];
  } catch {
    return [];
  }
}

/** Remembers that a condition was asked. */
export function noteCondition(table: string, text: string): void {
  if (table === '' || text === '') return;
  const others = recentConditions(table).filter((one) => one !== text);
  kept.write(keyOf(table), JSON.stringify([text, ...others].slice(0, most)));
}
