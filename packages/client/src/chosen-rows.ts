import { call, storedSelectionMember, not, text, type Expression } from '@ephoros/core/expression';
import type { WrittenQuery } from '@ephoros/core/query';
import { keyParts, printKey } from '@ephoros/core/schema';
import { joinFilters } from './query-builder.ts';

/**
 * Rows that were chosen: some by their keys, each spelled as in its address, or all that match,
 * except some. Never positions, so that they stay the same whatever comes and goes around them.
 */
export type ChosenRows =
  | { readonly kind: 'keys'; readonly keys: readonly string[] }
  | {
      readonly kind: 'matching';
      readonly filter?: Expression | string;
      readonly search?: readonly string[];
      readonly except: readonly string[];
    };

/** Chosen rows as a question can name them: some are stored by the service. */
export type QueryableRows = ChosenRows | { readonly kind: 'stored'; readonly id: string };

export const nothingChosen: ChosenRows = { kind: 'keys', keys: [] };

/** The rows of some keys, as a condition. */
export function selectedKeys(keys: readonly string[]): Expression {
  return call('selected', ...keys.map(text));
}

/** Chosen rows as a question: which filter, and which search, they are the answer to. */
export function chosenQuery(chosen: QueryableRows): Pick<WrittenQuery, 'filter' | 'search'> {
  if (chosen.kind === 'stored') return { filter: selectedKeys([storedSelectionMember(chosen.id)]) };
  if (chosen.kind === 'keys') return { filter: selectedKeys(chosen.keys) };
  const { filter: own, search = [], except } = chosen;
  const filter = except.length === 0 ? own : joinFilters(own, not(selectedKeys(except)));
  return {
    ...(filter === undefined ? {} : { filter }),
    ...(search.length === 0 ? {} : { search }),
  };
}

/** The key of a row as its address has it; undefined where the row has none. */
export function keyOfRow(row: object, key: readonly string[]): string | undefined {
  const held = row as Readonly<Record<string, unknown>>;
  const missing = key.some((name) => (held[name] ?? null) === null);
  return key.length === 0 || missing ? undefined : printKey(keyParts(held, key));
}
