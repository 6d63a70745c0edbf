import type { Expression } from '../expression/index.ts';

/** A selection that is stored where one question has no room for it. */
export type ResolvedSelection = { readonly table: string } & (
  | { readonly kind: 'keys'; readonly keys: readonly string[] }
  | {
      readonly kind: 'matching';
      readonly filter?: Expression;
      readonly search?: readonly string[];
      readonly except: readonly string[];
    }
);

/**
 * The stored selections that a question may name, each by its id and always as the same object as long
 * as it stays the same: `unknown` where there is none for the caller, `nowhere` where none are stored,
 * `nested` where none may be named.
 */
export type ResolvedSelections = (
  id: string,
) => ResolvedSelection | 'unknown' | 'nowhere' | 'nested';
