import { keyOfRow } from '@ephoros/client';
import { useEffect, type ReactElement } from 'react';
import { Card } from '../card/row-card.tsx';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import type { Drawn } from '../records/use-records.ts';
import { isOutline, rowAt } from '../table/row-at.ts';
import { useSheet } from './sheet-context.ts';
import { positionOf } from './use-opened.ts';

/** The card of the open row, with the ways to its neighbours in the order of the table. */
export function OpenedCard(): ReactElement | null {
  const { client, card, opened, addressOf, handle } = useSheet();
  const records = useRowsOf();
  const { reader } = useModel();
  const { source, table, pager, reading } = records;
  const { key, open, wanted } = opened;
  const at = positionOf(key, opened.position.current, records);
  // A neighbour that had to be fetched first is opened as soon as it is there.
  useEffect(() => {
    const { current } = wanted;
    if (current === undefined) return;
    const row = rowAt(source, current);
    const to = row && keyOfRow(row, table.key);
    if (to === undefined) return;
    open(to, current);
  });
  useEffect(() => {
    if (at !== undefined) handle.current?.goTo(at, true);
  }, [key, at, handle]);
  if (key === undefined || client === undefined) return null;
  const step = (by: number): (() => void) | undefined => {
    const to = at === undefined ? undefined : adjacentLine(at, by, records);
    if (to === undefined) return undefined;
    return () => {
      const row = rowAt(source, to);
      const page = Math.floor(to / pager.size) + 1;
      if (reading === 'pages' && !isOutline(source) && page !== pager.page) pager.goTo(page);
      else handle.current?.goTo(to, true);
      const found = row && keyOfRow(row, table.key);
      if (found === undefined) wanted.current = to;
      else open(found, to);
    };
  };
  return (
    <Card
      client={client}
      table={table.name}
      rowKey={key}
      reader={reader}
      addressOf={addressOf}
      drafts={records.drafts}
      refreshes={records.request?.refreshes}
      refresh={records.refresh}
      onClose={() => {
        open(undefined);
        handle.current?.takeKeyboard();
      }}
      onPrevious={step(-1)}
      onNext={step(1)}
    >
      {typeof card === 'function' ? card : undefined}
    </Card>
  );
}

/** The next line of a row in a direction, past the lines of groups; undefined where there is none. */
function adjacentLine(
  from: number,
  by: number,
  { source, total, open }: Drawn,
): number | undefined {
  for (let to = from + by; to >= 0 && (open || to < (total ?? 0)); to += by) {
    if (!isOutline(source) || source.row(to)?.kind !== 'group') return to;
  }
  return undefined;
}
