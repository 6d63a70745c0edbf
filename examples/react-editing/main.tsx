import { createClient } from '@ephoros/client';
import { TableView, type ColumnDefinition } from '@ephoros/react';
import '@ephoros/react/table.css';
import { useState } from 'react';
import { createRoot } from 'react-dom/client';

const client = createClient({ url: '/api' });

const columns: readonly ColumnDefinition[] = [
  { name: 'id', label: 'No.', pinned: true },
  { name: 'passed_at', format: { kind: 'datetime' } },
  { name: 'lock.name', label: 'Lock' },
  { name: 'status', format: { kind: 'badge' } },
  { name: 'toll', format: { kind: 'money', currency: 'ƒ', decimals: 2 } },
  {
    name: 'wait_minutes',
    label: 'Waited',
    format: { kind: 'duration', unit: 'minutes' },
    // A field of one's own: whatever calls `commit` changes the cell.
    editor: ({ value, commit, cancel }) => (
      <input
        type="range"
        min={0}
        max={120}
        step={5}
        defaultValue={Number(value)}
        autoFocus
        aria-label="Waited, in minutes"
        onBlur={cancel}
        onKeyUp={({ key, currentTarget }) => {
          if (key === 'Enter') commit(currentTarget.valueAsNumber);
          if (key === 'Escape') cancel();
        }}
        onPointerUp={({ currentTarget }) => commit(currentTarget.valueAsNumber)}
      />
    ),
  },
  { name: 'note', grows: true },
];

/** What a keeper sees: the newest passages of one lock, each saved as soon as one leaves it. */
function App() {
  const [waiting, setWaiting] = useState(0);
  return (
    <>
      <TableView
        client={client}
        table="passages"
        columns={columns}
        query={client.table('passages').filter('lock_id = 1').sort('-passed_at').query}
        sentence={false}
        card
        editable={{ saving: 'row', keep: 'keeper of lock 1' }}
        onDraftsChange={(changes) => setWaiting(changes.length)}
      />
      <p className="aside">{waiting === 0 ? 'All is saved.' : `${waiting} to be saved`}</p>
    </>
  );
}

createRoot(document.querySelector('#root')!).render(<App />);
