import type { ReactElement } from 'react';
import type { Reading } from '@ephoros/core/view';
import { useCount, useModel, useRowsOf } from '../parts/table-context.ts';
import { Choices } from './choices.tsx';

/** How the rows are read: by page, of which size, or as one scroll; how they are counted and set. */
export function ReadingEditor({ done }: { readonly done: () => void }): ReactElement {
  const { view, change, table, reading, usualReading, sizes, reader } = useModel();
  const { messages } = reader;
  const { editors } = messages;
  const count = useCount();
  const { rowCap } = table;
  const { total = Infinity } = useRowsOf();
  const size = view.limit ?? sizes[0] ?? 50;
  // All on one page, where one answer has room for them.
  const allFit = total > (sizes[0] ?? 0) && total <= rowCap && !sizes.includes(rowCap);
  return (
    <div className="eph-form">
      <Choices
        label={editors.readingSheet}
        values={[
          ...sizes.map((one) => ({ value: String(one), text: messages.readingPages(count(one)) })),
          ...(allFit ? [{ value: String(rowCap), text: messages.readingAll(count(total)) }] : []),
          { value: 'scroll', text: messages.readingScroll },
          { value: 'more', text: messages.readingMore(count(size)) },
        ]}
        chosen={reading === 'pages' ? String(size) : reading}
        change={(value) => {
          const paged = value === 'scroll' || value === 'more' ? undefined : Number(value);
          const wanted = paged === undefined ? (value as Reading) : 'pages';
          change({
            limit: value === 'more' ? view.limit : paged === sizes[0] ? undefined : paged,
            // What the page does anyway is not stated.
            reading: wanted === usualReading ? undefined : wanted,
            place: undefined,
          });
          done();
        }}
      />
      <h2 className="eph-list-title">{editors.counted}</h2>
      <Choices
        label={editors.counted}
        values={(['exact', 'estimate', 'none'] as const).map((value) => ({
          value,
          text: editors.countings[value],
        }))}
        chosen={view.total ?? 'exact'}
        change={(total) => {
          change({ total: total === 'exact' ? undefined : total });
          done();
        }}
      />
    </div>
  );
}
