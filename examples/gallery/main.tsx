import { rowsFrom, ServiceError, type Client, type Row } from '@ephoros/client';
import { createLocalClient } from '@ephoros/client/local';
import {
  arabic,
  TableView,
  type ColumnDefinition,
  type TableViewProps,
  type View,
} from '@ephoros/react';
import '@ephoros/react/table.css';
import type { ReactElement } from 'react';
import { createRoot } from 'react-dom/client';

const names = ['Alder', 'Bittern', 'Candle', 'Drover', 'Eel Pie', 'Fallow', 'Gannet', 'Hollow'];
const states = ['open', 'closed', 'drained'];
const rows: readonly Row[] = Array.from({ length: 240 }, (_, index) => ({
  id: index + 1,
  name: `${names[index % names.length]} Lock ${Math.floor(index / names.length) + 1}`,
  state: states[index % 7 === 0 ? 2 : index % 3 === 0 ? 1 : 0] ?? null,
  rise: ((index * 37) % 480) / 100,
  note:
    index % 5 === 0
      ? 'The upper gate leaks since the frost; a boat that waits here does well to keep off the sill until the keeper has seen it.'
      : null,
}));
const columns: readonly ColumnDefinition[] = [
  { name: 'name', label: 'Lock' },
  { name: 'state', format: { kind: 'badge' as const } },
  { name: 'rise', format: { kind: 'number' as const, decimals: 2, unit: 'm' } },
  { name: 'note' },
];
const sources = {
  locks: { rows, key: ['id'] },
  none: { csv: 'id,name,state,rise,note\n', key: ['id'] },
};
const client: Client = createLocalClient(sources);
const locks = client.table('locks');
const span = { start: 0, end: 0 };

/** Of the rows from `from` on nobody answers. */
const broken = (from: number, error: Error) => () =>
  rowsFrom((window) => {
    if (window.offset >= from) throw error;
    return { rows: rows.slice(window.offset, window.offset + window.limit), total: rows.length };
  });

type Shown = Partial<TableViewProps>;

const view = (one: View): Shown => ({ defaultView: one });
const own = { client: undefined, table: undefined, sentence: false, tools: false };

/** What each state is called, and what makes it. */
const gallery: Readonly<Record<string, Shown>> = {
  'as usual': {},
  loading: { client: createLocalClient(sources, { simulate: { delay: 60_000 } }) },
  'an empty table': { table: 'none' },
  'nothing matches': { query: locks.filter("name = 'Nowhere'").query },
  refused: { query: locks.filter('depth > 3').query },
  failed: { client: createLocalClient(sources, { simulate: { fail: 1 } }) },
  'partly loaded': { ...own, source: broken(100, new ServiceError('failed', 'It broke.')) },
  'away, and tried again': {
    ...own,
    source: broken(0, new ServiceError('unavailable', 'The service cannot be reached.')),
  },
  'pages, numbered and striped': {
    reading: 'pages',
    ...view({ rowStyle: ['striped', 'numbered'] }),
  },
  'more when asked': view({ reading: 'more', limit: 10 }),
  'long text over lines': view({ rowStyle: ['wrapped'], density: 'compact' }),
  painted: view({
    paint: [
      { kind: 'bar', column: 'rise' },
      ...(['calm', 'note', 'good', 'warn', 'fault'] as const).map((tone, index) => ({
        kind: 'tone' as const,
        tone,
        column: 'name',
        when: {
          kind: 'comparison' as const,
          comparator: '<=' as const,
          left: { kind: 'property' as const, name: 'id', span },
          right: { kind: 'number' as const, value: String(index + 1), span },
          span,
        },
      })),
    ],
  }),
  selected: { selectable: true, selected: ['2', '4'] },
  grouped: { query: locks.group('state').aggregate('count()', 'avg(rise)').query },
  'side by side': view({ layout: 'across' }),
  'a chart': view({
    chart: {
      kind: 'bars',
      by: { name: 'state', expression: { kind: 'property', name: 'state', span } },
    },
  }),
  edited: { editable: true, card: true },
  'a narrow screen': {},
  'from right to left': { messages: arabic, reading: 'pages' },
};

function Gallery(): ReactElement {
  return (
    <>
      {Object.entries(gallery).map(([name, shown]) => (
        <section key={name} id={name.replaceAll(/\W+/g, '-')} style={{ margin: '0 1.5rem 2.5rem' }}>
          <h2 style={{ margin: '0 0 0.5rem', font: 'italic 500 1.15rem var(--eph-serif)' }}>
            {name}
          </h2>
          <div
            style={{
              height: name === 'a chart' ? 480 : 340,
              width: name === 'a narrow screen' ? 380 : undefined,
              border: '1px solid var(--eph-rule)',
            }}
          >
            <TableView client={client} table="locks" columns={columns} label={name} {...shown} />
          </div>
        </section>
      ))}
    </>
  );
}

createRoot(document.querySelector('#root')!).render(<Gallery />);
