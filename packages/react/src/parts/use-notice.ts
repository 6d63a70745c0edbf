import type { Expression } from '@ephoros/core/expression';
import { useCallback } from 'react';
import { formatText } from '../format/value.ts';
import { useCount, useModel } from './table-context.ts';
import { spokenCondition } from '../sentence/sentence.ts';

/** Says a condition in words, as the sentence does. */
export function useNotice(): (condition: Expression) => string {
  const { table, column, reader, reading } = useModel();
  const count = useCount();
  return useCallback(
    (condition) =>
      spokenCondition(condition, table, {
        show: (value, of) => (of === undefined ? value : formatText(value, of, reader)),
        count,
        column,
        reading,
        messages: reader.messages,
      }),
    [table, column, reader, reading, count],
  );
}
