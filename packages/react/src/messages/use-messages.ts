import { createContext, useContext } from 'react';
import { english } from './english.ts';
import type { Messages } from './messages.ts';

/** The messages of all tables inside; English without one. */
export const MessagesContext = createContext<Messages>(english);

export function useMessages(): Messages {
  return useContext(MessagesContext);
}
