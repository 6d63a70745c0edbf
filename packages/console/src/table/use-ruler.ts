import type { MilepostsAnswer } from '@ephoros/client';
import type { CheckedColumn, CheckedQuery } from '@ephoros/core/check';
import type { TableDescription } from '@ephoros/core/schema';
import { rulerMarks, valueAt } from '@ephoros/core/window';
import { formatText, useMileposts, type RulerContent } from '@ephoros/react';
import { useCallback, useMemo } from 'react';
import { client, reader } from '../service.ts';
import type { View } from './view-state.ts';

/** Places that the ruler knows the values of. */
const tickCount = 500;

/** What the ruler of a continuous reading says; undefined where there is none. */
export function useRuler(
  view: View,
  table: TableDescription,
  { sort }: CheckedQuery,
  total: number | undefined,
): RulerContent | undefined {
  const { query, reading, texts } = view;
  const column = sort[0]?.column;
  const wanted = reading === 'scroll' && table.key.length > 0 && column !== undefined;
  const ask = useCallback(
    (signal: AbortSignal) => client.mileposts(table.name, query, tickCount, signal),
    // The texts stand for the query, which is made anew at every drawing.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [table, texts.filter, texts.search, texts.sort, texts.nulls],
  );
  const answer = useMileposts(wanted ? ask : undefined);
  return useMemo(() => {
    if (!wanted || total === undefined || total === 0) return undefined;
    const ticks = answer?.ticks ?? [];
    const { type } = column;
    return {
      locale: reader.locale,
      marks: (room) => rulerMarks({ ticks, type, total, room, locale: reader.locale }),
      note: noteOf(answer, column, total),
      labelAt: (row) => {
        const value = valueAt(ticks, row, type);
        if (value === undefined) return undefined;
        if (value === null) return `no ${column.label}`;
        // Read between the ticks, it is never exact to the minute.
        const shown = type.kind === 'timestamp' ? { ...column, format: dateOnly } : column;
        return formatText(value as string, shown, reader);
      },
    };
  }, [wanted, answer, column, total]);
}

const dateOnly = { kind: 'date' } as const;

/** Why the ruler is not whole yet. */
function noteOf(
  answer: MilepostsAnswer | undefined,
  { label, indexed }: CheckedColumn,
  total: number,
): string | undefined {
  if (answer?.state === 'ready') return undefined;
  if (answer?.state === 'failed') return `${label} cannot be read at the moment`;
  const slow = indexed ? '' : `no index on ${label}: `;
  const passed = answer?.passed ?? 0;
  if (passed === 0) return `${slow}reading ${label} …`;
  return `${slow}reading ${label}, ${Math.min(99, Math.floor((100 * passed) / total))} %`;
}
