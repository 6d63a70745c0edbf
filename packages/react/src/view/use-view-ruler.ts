import { printParameters, type WrittenQuery } from '@ephoros/client';
import { matchPart, rowsPart } from '@ephoros/core/query';
import { useCallback } from 'react';
import type { FullReader } from '../format/value.ts';
import type { Drawn } from '../records/use-records.ts';
import type { RulerContent } from '../ruler/ruler.tsx';
import { rulerTicks, useRuler } from '../ruler/use-ruler.ts';
import { useSame } from '../use-same.ts';

/** Rows from which on the strip beside the scroll bar is worth its room. */
const longResult = 500;

interface RulerOptions {
  readonly records: Drawn;
  readonly reader: FullReader;
  readonly wanted: boolean;
}

/** The ruler of a long scroll over a table with a key; undefined where there is none. */
export function useViewRuler({ records, reader, wanted }: RulerOptions): RulerContent | undefined {
  const { query, table, column, ask, total = 0, open } = records;
  const { sort, nulls } = rowsPart(query);
  const leading = sort?.[0]?.column.name ?? table.defaultSort[0]?.column ?? table.key[0];
  const about: WrittenQuery = {
    ...matchPart(query),
    ...(sort && { sort }),
    ...(nulls && { nulls }),
  };
  const asked = useSame(about, JSON.stringify(printParameters(about)));
  const mileposts = ask?.mileposts;
  const question = useCallback(
    async (signal: AbortSignal) => {
      if (mileposts === undefined) throw new Error('this client has no mileposts');
      return mileposts(asked, rulerTicks, signal);
    },
    [mileposts, asked],
  );
  const told =
    wanted && mileposts !== undefined && table.key.length > 0 && !open && total >= longResult;
  const described = leading === undefined ? undefined : column(leading);
  return useRuler(told ? question : undefined, described, total, reader);
}
