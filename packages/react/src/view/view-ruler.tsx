import { printParameters, type WrittenQuery } from '@ephoros/client';
import { matchPart, rowsPart } from '@ephoros/core/query';
import { useCallback, type ReactElement } from 'react';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import { Ruler, type RulerPlace } from '../ruler/ruler.tsx';
import { rulerTicks, useRuler } from '../ruler/use-ruler.ts';
import { useSame } from '../use-same.ts';

/** The ruler of a long scroll, by the leading column of its sort. */
export function ViewRuler(place: RulerPlace): ReactElement | null {
  const { reader } = useModel();
  const { query, table, column, request, total } = useRowsOf();
  const { sort, nulls } = rowsPart(query);
  const leading = sort?.[0]?.column.name ?? table.defaultSort[0]?.column ?? table.key[0];
  const about: WrittenQuery = {
    ...matchPart(query),
    ...(sort && { sort }),
    ...(nulls && { nulls }),
  };
  const wanted = useSame(about, JSON.stringify(printParameters(about)));
  const mileposts = request?.mileposts;
  const queryText = useCallback(
    async (signal: AbortSignal) => {
      if (mileposts === undefined) throw new Error('this client has no mileposts');
      return mileposts(wanted, rulerTicks, signal);
    },
    [mileposts, wanted],
  );
  const described = leading === undefined ? undefined : column(leading);
  const content = useRuler(queryText, described, total, reader);
  return content === undefined ? null : <Ruler content={content} {...place} />;
}
