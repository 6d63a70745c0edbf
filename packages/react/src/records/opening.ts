import type { Expression } from '@ephoros/core/expression';
import type { TableDescription } from '@ephoros/core/schema';
import { Later } from '../later.ts';
import type { Opening } from './read-opening.ts';

export type { Opening };

/** Loaded with the first table that says anything of it. */
const reader = new Later(() => import('./read-opening.ts'));

const none: Opening = {};
const known = new WeakMap<TableDescription, Opening>();

/** Reads a condition from its text; undefined for what is none. */
export async function conditionRequest(text: string): Promise<Expression | undefined> {
  const { readCondition } = await reader.request();
  const read = readCondition(text);
  return 'expression' in read ? read.expression : undefined;
}

/** What a description says of it, where that was read before. */
export function openingOf(table: TableDescription): Opening | undefined {
  const { begin, fixed, paint } = table;
  if (begin === undefined && fixed === undefined && paint === undefined) return none;
  return known.get(table);
}

/** Reads it: once. */
export async function openingRequest(table: TableDescription): Promise<Opening> {
  const before = openingOf(table);
  if (before !== undefined) return before;
  const { readOpening } = await reader.request();
  return cacheOpening(table, readOpening(table));
}

/** Keeps what was read elsewhere, such as on a server. */
export function cacheOpening(table: TableDescription, opening: Opening): Opening {
  known.set(table, opening);
  return opening;
}
