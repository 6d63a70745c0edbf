import { createLocalClient } from '@ephoros/client/local';
import { TableView, type ColumnDefinition } from '@ephoros/react';
import '@ephoros/react/table.css';
import { useMemo, useState } from 'react';
import { createRoot } from 'react-dom/client';
import sample from './locks.csv?raw';

const columns: readonly ColumnDefinition[] = [
  { name: 'name', label: 'Lock', pinned: true },
  { name: 'canal.name', label: 'Canal' },
  { name: 'rise_m', label: 'Rise', format: { kind: 'number', decimals: 1, unit: 'm' } },
  { name: 'opens_at', label: 'Opens' },
  { name: 'automatic' },
];

function App() {
  const [csv, setCsv] = useState(sample);
  const [grouped, setGrouped] = useState(false);
  const client = useMemo(() => createLocalClient({ locks: { csv, key: ['id'] } }), [csv]);
  const byCanal = useMemo(() => client.table('locks').group('canal.name').query, [client]);
  return (
    <>
      <p className="bar">
        <input
          aria-label="A CSV file"
          type="file"
          accept=".csv"
          onChange={async ({ target }) => setCsv((await target.files?.[0]?.text()) ?? sample)}
        />
        <label>
          <input type="checkbox" onChange={({ target }) => setGrouped(target.checked)} /> by canal
        </label>
      </p>
      <div className="rest">
        <TableView
          client={client}
          table="locks"
          columns={columns}
          {...(grouped ? { query: byCanal } : { reading: 'pages' })}
        />
      </div>
    </>
  );
}

createRoot(document.querySelector('#root')!).render(<App />);
