import type { MilepostsAnswer, Value } from '@ephoros/client';
import type { ColumnDescription } from '@ephoros/core/schema';
import { rulerMarks, valueAt } from '@ephoros/core/window';
import { useMemo } from 'react';
import { formatText, type Reader } from '../format/value.ts';
import { useMessages } from '../messages/use-messages.ts';
import type { Messages } from '../messages/messages.ts';
import type { RulerContent } from './ruler.tsx';
import { useMileposts } from './use-mileposts.ts';

/** Places that a ruler knows the values of. */
export const rulerTicks = 500;

/**
 * What the ruler next to a long result says, by its mileposts; undefined where there is none.
 * @param request asks for them; another function is another result, undefined is no ruler
 * @param column the leading column of the sort
 */
export function useRuler(
  request: ((signal: AbortSignal) => Promise<MilepostsAnswer>) | undefined,
  column: ColumnDescription | undefined,
  total: number | undefined,
  reader: Reader,
): RulerContent | undefined {
  const messages = useMessages();
  const answer = useMileposts(request);
  const wanted = request !== undefined;
  return useMemo(() => {
    if (!wanted || column === undefined || total === undefined || total === 0) return undefined;
    const ticks = answer?.ticks ?? [];
    const { type } = column;
    const { locale } = reader;
    return {
      locale,
      marks: (room) => rulerMarks({ ticks, type, total, room, locale, missing: messages.noValue }),
      note: noteOf(answer, column, total, messages),
      labelAt: (row) => {
        const value = valueAt(ticks, row, type);
        if (value === undefined) return undefined;
        if (value === null) return messages.without(column.label);
        // Read between the ticks, it is never exact to the minute.
        const shown = type.kind === 'timestamp' ? { ...column, format: dateOnly } : column;
        return formatText(value as Value, shown, reader);
      },
    };
  }, [wanted, answer, column, total, reader, messages]);
}

const dateOnly = { kind: 'date' } as const;

/** Why the ruler is not whole yet. */
function noteOf(
  answer: MilepostsAnswer | undefined,
  { label, indexed }: ColumnDescription,
  total: number,
  messages: Messages,
): string | undefined {
  if (answer?.state === 'ready') return undefined;
  if (answer?.state === 'failed') return messages.unreadable(label);
  const passed = answer?.passed ?? 0;
  const percent = passed === 0 ? undefined : Math.min(99, Math.floor((100 * passed) / total));
  return messages.reading(label, percent, indexed);
}
