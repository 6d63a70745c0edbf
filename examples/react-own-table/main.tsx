import { createClient } from '@ephoros/client';
import { RowCard, useRecords } from '@ephoros/react';
import '@ephoros/react/table.css';
import { useState } from 'react';
import { createRoot } from 'react-dom/client';

const client = createClient({ url: '/api' });
const columns = ['name', 'canal.name', 'rise_m', 'opens_at'];
const arrows = { ascending: ' ↑', descending: ' ↓' };

function Locks() {
  const locks = useRecords({ client, table: 'locks', columns, query: { limit: 10 } });
  const { headers, rows, pager, status, error, selection } = locks;
  const [open, setOpen] = useState<string>();
  if (status === 'failed') {
    return (
      <p role="alert">
        {error?.message} <button onClick={locks.retry}>Try again</button>
      </p>
    );
  }
  return (
    <>
      <input
        type="search"
        aria-label="Search"
        placeholder="search"
        value={locks.search}
        onChange={({ target }) => locks.setSearch(target.value)}
      />
      <table aria-busy={status === 'loading'}>
        <thead>
          <tr>
            <th>
              <input
                type="checkbox"
                aria-label="Select this page"
                checked={selection.inWindow === 'all'}
                onChange={selection.toggleWindow}
              />
            </th>
            {headers.map(({ name, label, sorted, sort }) => (
              <th key={name} aria-sort={sorted ?? 'none'}>
                <button onClick={({ shiftKey }) => sort(shiftKey)}>
                  {label}
                  {sorted && arrows[sorted]}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, index) => (
            <tr key={index}>
              <td>
                {row && (
                  <input
                    type="checkbox"
                    aria-label="Select"
                    checked={selection.has(row)}
                    onChange={() => selection.toggle(row)}
                  />
                )}
              </td>
              {columns.map((name, place) => (
                <td key={name}>
                  {row === undefined ? (
                    '…'
                  ) : place > 0 ? (
                    String(row[name] ?? '–')
                  ) : (
                    <button onClick={() => setOpen(selection.keyOf(row))}>
                      {String(row[name])}
                    </button>
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <button
        className="plate"
        disabled={!pager.hasPrevious}
        onClick={() => pager.goTo(pager.page - 1)}
      >
        previous
      </button>{' '}
      <output>
        page {pager.page} of {pager.count ?? '…'}, {selection.keys.length} selected
      </output>{' '}
      <button
        className="plate"
        disabled={!pager.hasNext}
        onClick={() => pager.goTo(pager.page + 1)}
      >
        next
      </button>
      {open !== undefined && (
        <aside>
          <RowCard client={client} table="locks" rowKey={open} onClose={() => setOpen(undefined)} />
        </aside>
      )}
    </>
  );
}

createRoot(document.querySelector('#root')!).render(<Locks />);
