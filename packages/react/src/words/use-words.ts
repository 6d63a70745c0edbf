import { createContext, useContext } from 'react';
import { english } from './english.ts';
import type { Words } from './words.ts';

/** The words of all tables inside; English without one. */
export const WordsContext = createContext<Words>(english);

export function useWords(): Words {
  return useContext(WordsContext);
}
