import type { ReactElement } from 'react';
import { useCount, useModel } from '../parts/table-context.ts';
import { Choices } from './choices.tsx';

/** How the rows are read: by page, of which size, or as one scroll; how they are counted and set. */
export function ReadingEditor({ done }: { readonly done: () => void }): ReactElement {
  const { view, change, table, reading, usualReading, sizes, reader } = useModel();
  const { messages } = reader;
  const { editors } = messages;
  const count = useCount();
  const size = view.limit ?? table.pageSizes[0] ?? 50;
  return (
    <div className="eph-form">
      <Choices
        label={editors.readingSheet}
        values={[
          ...sizes.map((one) => ({ value: String(one), text: messages.readingPages(count(one)) })),
          { value: 'scroll', text: messages.readingScroll },
        ]}
        chosen={reading === 'scroll' ? 'scroll' : String(size)}
        change={(value) => {
          const paged = value === 'scroll' ? undefined : Number(value);
          const wanted = paged === undefined ? 'scroll' : 'pages';
          change({
            limit: paged === sizes[0] ? undefined : paged,
            // What the page does anyway is not said.
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
      <h2 className="eph-list-title">{editors.rowsStand}</h2>
      <Choices
        label={editors.rowsStand}
        values={(['compact', 'normal', 'roomy'] as const).map((value) => ({
          value,
          text: editors.densities[value],
        }))}
        chosen={view.density ?? 'normal'}
        change={(density) => {
          change({ density: density === 'normal' ? undefined : density });
          done();
        }}
      />
      <h2 className="eph-list-title">{editors.rowsLie}</h2>
      <Choices
        label={editors.rowsLie}
        values={(['down', 'across'] as const).map((value) => ({
          value,
          text: editors.layouts[value],
        }))}
        chosen={view.layout ?? 'down'}
        change={(layout) => {
          change({ layout: layout === 'down' ? undefined : layout });
          done();
        }}
      />
    </div>
  );
}
