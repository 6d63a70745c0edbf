import { createClient } from '@ephoros/client';
import {
  arabic,
  english,
  TableView,
  useAddressView,
  useStoredView,
  type ColumnDefinition,
} from '@ephoros/react';
import '@ephoros/react/table.css';
import { useState } from 'react';
import { createRoot } from 'react-dom/client';

const client = createClient({ url: '/api' });

const columns: readonly ColumnDefinition[] = [
  { name: 'boat.picture', label: 'Picture', format: { kind: 'picture' }, width: 112, pinned: true },
  { name: 'boat.name', label: 'Boat', pinned: true, width: 190 },
  { name: 'passed_at', format: { kind: 'datetime' } },
  { name: 'lock.name', label: 'Lock' },
  {
    name: 'status',
    format: { kind: 'badge' },
    valueLabels: { disputed: 'in dispute' },
    classOfCell: (status) => (status === 'disputed' ? 'disputed' : undefined),
  },
  { name: 'wait_minutes', label: 'Waited', format: { kind: 'duration', unit: 'minutes' } },
  { name: 'toll', format: { kind: 'money', currency: 'ƒ', decimals: 2 } },
  {
    name: 'draught_m',
    label: 'Draught',
    minWidth: 90,
    maxWidth: 240,
    render: (value) => (
      <meter min={0} max={2.5} value={Number(value)} title={`${String(value)} m`} />
    ),
  },
  { name: 'boat.owner.email', label: 'Owner', format: { kind: 'link' }, sortable: false },
  { name: 'note', hidden: true },
];

function App() {
  const words = new URLSearchParams(location.search).get('words') === 'ar' ? arabic : english;
  // What is shown is in the address, to be sent to others; how it looks is stored in this browser.
  const view = useStoredView('passages', useAddressView());
  const [chosen, setChosen] = useState('');
  return (
    <>
      <TableView
        client={client}
        table="passages"
        columns={columns}
        messages={words}
        {...view}
        selectable
        onActivate={(row) => setChosen(`${String(row['boat.name'])}, ${String(row.passed_at)}`)}
      />
      {chosen !== '' && <dialog open>{chosen}</dialog>}
    </>
  );
}

createRoot(document.querySelector('#root')!).render(<App />);
