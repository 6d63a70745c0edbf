/** A page of many tables, each shown by the name behind the hash: `#pages`. */
export const tablePages = `
import { createClient, rowsFrom } from '@ephoros/client';
import { createLocalClient, cacheSmallResults } from '@ephoros/client/local';
import { Foot, RecordTable, Rows, TableParts, TableView, useRecords, english } from '@ephoros/react';
import '@ephoros/react/table.css';
import { StrictMode, useEffect, useRef, useState } from 'react';
import { createRoot } from 'react-dom/client';

window.log = [];
const client = createClient({ url: '/api' });
const columns = [{ name: 'id' }, { name: 'name' }];
const numbers = Array.from({ length: 500 }, (_, id) => ({ id, name: 'row ' + id }));

/** Draws itself again and again for a while, as a state that is set while drawing does; not by frames, which a busy machine has few of. */
function useRestless() {
  const [count, setCount] = useState(0);
  useEffect(() => {
    if (count < 300) setTimeout(() => setCount(count + 1), 20);
  }, [count]);
}

let broken = true;
const keeping = cacheSmallResults(client, { maxRows: 100 });
const pages = {
  client() {
    // The error: another client at every drawing.
    useRestless();
    return <TableView client={createClient({ url: '/api' })} table="locks" columns={columns} />;
  },
  columns() {
    useRestless();
    return <TableView client={client} table="locks" columns={[{ name: 'id' }, { name: 'name' }]} />;
  },
  anew() {
    // A table of one's own whose columns are other ones whenever a row comes into view.
    const [source] = useState(() => rowsFrom(() => ({ rows: numbers, total: 500 })));
    const [, setFirst] = useState(0);
    const own = Array.from({ length: 20 }, (_, index) => (
      { name: 'c' + index, label: 'C' + index, width: 90, render: (_value, row) => row.id }
    ));
    return (
      <div style={{ height: 500 }}>
        <RecordTable source={source} columns={own} label="numbers" onVisibleRowsChange={setFirst} />
      </div>
    );
  },
  begun() {
    // Other rows in place of the first ones, twice from a place and then from the beginning.
    const [round, setRound] = useState(0);
    const [sources] = useState(() => [0, 1, 2].map(() => rowsFrom(() => ({ rows: numbers, total: 500 }))));
    const [own] = useState([{ name: 'id', label: 'Id', width: 90 }]);
    return (
      <div style={{ height: 500 }}>
        <button onClick={() => setRound(round + 1)}>other rows</button>
        <RecordTable source={sources[round]} columns={own} label="numbers" startRow={round < 2 ? 300 : 0} />
      </div>
    );
  },
  unknown: () => <TableView client={client} table="locks" columns={[...columns, { name: 'nmae' }]} />,
  source() {
    const [given] = useState([...columns, { name: 'nmae' }]);
    const [make] = useState(() => (query) =>
      rowsFrom(({ offset, limit }) => ({ rows: numbers.slice(offset, offset + limit), total: 500 }), { query }));
    return <TableView source={make} columns={given} rowKey={['id']} selectable />;
  },
  controlled() {
    // Everything but the columns is stored.
    const [view, setView] = useState(client.table('locks').sort('-name').query);
    return (
      <TableView client={client} table="locks" columns={columns} view={view}
        onViewChange={({ columns: _, ...next }, { parts }) => { window.log.push(parts.join()); setView(next); }} />
    );
  },
  pages: () => (
    <TableView client={client} table="boats" columns={columns} reading="pages" query={{ limit: 20 }}
      defaultView={{ place: { kind: 'page', page: 2 } }} onVisibleRowsChange={(first, last) => window.log.push([first, last])} />
  ),
  failing() {
    const [make] = useState(() => () => rowsFrom(() => {
      if (broken) throw new Error('the shelf is empty');
      return { rows: numbers.slice(0, 100), total: 100 };
    }));
    useEffect(() => { window.mend = () => { broken = false; }; }, []);
    return <TableView source={make} columns={columns} onFailure={({ message }) => window.log.push(message)} />;
  },
  ruler: () => <TableView client={client} table="passages" defaultView={client.table('passages').sort('-passed_at').query} />,
  past: () => <TableView client={client} table="locks" reading="pages" query={{ limit: 20 }} defaultView={{ place: { kind: 'page', page: 99 } }} />,
  nowhere: () => <TableView table="locks" />,
  kept: () => <TableView client={keeping} table="locks" columns={columns} />,
  looking() {
    // Callbacks made again at every drawing, which they bring about themselves.
    const [range, setRange] = useState([0, 0]);
    const [, setFailure] = useState();
    window.drawings = (window.drawings ?? 0) + 1;
    return (
      <>
        <output>{range.join(' to ')}</output>
        <TableView client={client} table="locks" columns={columns} onVisibleRowsChange={(first, last) => setRange([first, last])}
          onFailure={(error) => setFailure(error)} />
      </>
    );
  },
  falling() {
    const [, setFailures] = useState(0);
    const [make] = useState(() => () => rowsFrom(() => { throw new Error('the shelf is empty'); }));
    return <TableView source={make} columns={columns} onFailure={({ message }) => { window.log.push(message); setFailures((count) => count + 1); }} />;
  },
  malformed: () => <TableView client={createLocalClient({ t: { csv: 'a,b\\n1,2,3' } })} table="t" />,
  odd() {
    const [local] = useState(() => createLocalClient({ t: {
      rows: [{ id: 1, n: '0.' + '123456789'.repeat(12), name: 'First' }],
      columns: { n: { type: { kind: 'numeric' } } },
    } }));
    return <TableView client={local} table="t" />;
  },
  undrawn() {
    const [columns] = useState([{ name: 'name', render: () => { throw new Error('no such colour'); } }]);
    return <><p>the rest of the page</p><TableView client={client} table="locks" columns={columns} /></>;
  },
  based: () => (
    <TableView client={client} table="locks" columns={columns} reading="pages"
      query={{ limit: 25, sort: [{ column: { name: 'name', span: { start: 0, end: 0 } }, descending: true }] }} />
  ),
  keyed() {
    const [pressed, setPressed] = useState('');
    const [columns] = useState([{ name: 'id' }, { name: 'name', render: (name) => <button onClick={() => window.log.push('pressed ' + name)}>{name}</button> }]);
    return <TableView client={client} table="locks" columns={columns} onActivate={(row) => window.log.push('row ' + row.name)} />;
  },
  refreshed() {
    const handle = useRef(null);
    useEffect(() => { window.refresh = () => handle.current.refresh(); }, []);
    return <TableView client={client} table="passages" handle={handle} defaultView={client.table('passages').sort('id').aggregate('count()', 'sum(toll)').query} />;
  },
  parts: () => (
    <TableParts client={client} table="locks" columns={columns}>
      <h2>Locks of mine</h2>
      <Rows />
      <Foot sayReading />
    </TableParts>
  ),
  grouped: () => (
    <TableView client={client} table="locks" columns={columns}
      query={client.table('locks').group('canal.name').filter('rise_m > 2').query} />
  ),
  empty() {
    const [none] = useState(() => createLocalClient({ t: { csv: 'id,name' } }));
    return <TableView client={none} table="t" />;
  },
  own() {
    const records = useRecords({ client, table: 'locks', columns: ['name'], reading: 'scroll' });
    const { setVisibleRows, rows, window: shown, status } = records;
    useEffect(() => setVisibleRows(10, 15), [setVisibleRows]);
    return <ul data-from={shown.from}>{rows.map((row, at) => <li key={at}>{row?.name ?? status}</li>)}</ul>;
  },
  watched: () => <TableView client={client} table="owners" columns={columns} watch={200} />,
  unwatched: () => <TableView client={client} table="owners" columns={columns} watch={false} />,
  narrow: () => (
    <div style={{ width: 380, height: 600 }}>
      <TableView client={client} table="locks" columns={[{ name: 'id' }, { name: 'name' }, { name: 'canal.name' }, { name: 'rise_m' },
        { name: 'opens_at' }, { name: 'closes_at' }, { name: 'automatic' }]} />
    </div>
  ),
  fixed: () => (
    <TableView client={client} table="locks" columns={columns} query={client.table('locks').filter('rise_m > 2').query}
      defaultView={client.table('locks').where((where) => where.atMost('id', 40)).query} />
  ),
  simulated() {
    const [local] = useState(() => createLocalClient({ t: { rows: numbers } }, { simulate: { delay: 400 } }));
    return <TableView client={local} table="t" columns={columns} />;
  },
  messages: () => <TableView client={client} table="locks" messages={{ ...english, search: 'seek' }} locale="de" />,
};
const Page = pages[location.hash.slice(1)];
createRoot(document.body.appendChild(document.createElement('div'))).render(
  <StrictMode><div style={{ height: '100vh' }}><Page /></div></StrictMode>,
);
`;
