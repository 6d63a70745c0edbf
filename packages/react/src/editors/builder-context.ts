import type { ConditionPart, PartPath } from '@ephoros/core/query';
import { createContext, useContext } from 'react';
import type { BuilderMessages } from '../messages/builder-messages.ts';

/** What is done with the parts of a condition. */
export interface BuilderActions {
  readonly messages: BuilderMessages;
  /** The part whose fields are open. */
  readonly edited: ConditionPart | undefined;
  readonly edit: (part: ConditionPart | undefined) => void;
  /** Puts something else in a part's place; undefined removes it. */
  readonly replace: (path: PartPath, part: ConditionPart | undefined) => void;
  readonly add: (path: PartPath, part: ConditionPart, editing: boolean) => void;
  /** Moves a part to the next place before or behind it. */
  readonly step: (path: PartPath, by: 1 | -1, what: string) => void;
}

export const BuilderContext = createContext<BuilderActions | undefined>(undefined);

export function useBuilder(): BuilderActions {
  const actions = useContext(BuilderContext);
  if (actions === undefined) throw new Error('a part of a condition stands within its builder');
  return actions;
}
