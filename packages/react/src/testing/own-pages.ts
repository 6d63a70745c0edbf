/** A page of tables that a page makes its own, each shown by the name behind the hash. */
export const ownPages = `
import { chosenQuery, createClient } from '@ephoros/client';
import { createLocalClient } from '@ephoros/client/local';
import { TableView, useStoredSelection, useStoredView, useAddressView } from '@ephoros/react';
import '@ephoros/react/table.css';
import { firstRows } from '@ephoros/react/server';
import { StrictMode, Suspense, useEffect, useRef, useState } from 'react';
import { createRoot, hydrateRoot } from 'react-dom/client';

window.log = [];
const client = createClient({ url: '/api' });
const named = [{ name: 'id' }, { name: 'name' }, { name: 'chamber_m' }, { name: 'rise_m' }, { name: 'automatic' }];
const say = (text) => window.log.push(text);

const coming = location.hash === '#waiting' ? firstRows({ client, table: 'locks', columns: named }) : undefined;
const refusing = Promise.reject(new Error('nobody there'));
refusing.catch(() => undefined);
function Waiting() {
  return <TableView client={client} table="locks" columns={named} initial={location.search === '?refused' ? refusing : coming} />;
}

const pages = {
  pressed: () => (
    <TableView client={client} table="locks"
      columns={useState([{ name: 'id' }, { name: 'name', render: (name) => <span>{name} <button onClick={() => say('button ' + name)}>act</button></span> }])[0]}
      onPress={(row, { column, event }) => say(['row', row.id, column, event.type].join(' '))} />
  ),
  classes() {
    const [columns] = useState([
      { name: 'id' },
      { name: 'rise_m', classOfCell: (rise) => (Number(rise) > 3 ? 'steep' : undefined) },
      { name: 'name', classOfCell: 'title' },
      { name: 'automatic', valueLabels: { true: 'by itself', false: 'by hand' } },
    ]);
    return <TableView client={client} table="locks" columns={columns} classOfRow={(row) => (row.automatic ? undefined : 'manned')} />;
  },
  named: () => (
    <TableView client={client} table="passages" {...useAddressView()}
      columns={useState([{ name: 'id' }, { name: 'direction', valueLabels: { up: 'upstream', down: 'downstream' } }])[0]} />
  ),
  instead() {
    const [fails, setFails] = useState(true);
    const [slow] = useState(() => ({ ...client, rows: (...rest) => (window.fails ? Promise.reject(new Error('the shelf is locked')) : client.rows(...rest)) }));
    return (
      <TableView client={slow} table="locks" columns={named}
        instead={{
          loading: <p>fetching the book</p>,
          nothingMatches: <p>no such lock</p>,
          failed: (error, retry) => <p>oh: {error.message} <button onClick={() => { window.fails = false; retry(); }}>once more</button></p>,
        }} />
    );
  },
  empty() {
    const [none] = useState(() => createLocalClient({ t: { csv: 'id,name' } }));
    return <TableView client={none} table="t" instead={{ empty: <p>an empty shelf</p> }} />;
  },
  fitted() {
    const handle = useRef(null);
    useEffect(() => { window.fit = (names) => handle.current.fit(names); }, []);
    return <TableView client={client} table="locks" columns={named} handle={handle} fitted={location.search === '?fitted'} {...useAddressView()} />;
  },
  stored: () => <TableView client={client} table="locks" {...useStoredView('locks')} />,
  both: () => <TableView client={client} table="locks" {...useStoredView('locks', useAddressView())} />,
  zoned: () => <TableView client={client} table="passages" timeZone={location.search.slice(1)} columns={useState([{ name: 'id' }, { name: 'passed_at' }])[0]} defaultView={{ reading: 'pages' }} />,
  dated: () => <TableView client={client} table="passages" timeZone="Pacific/Kiritimati" locale="en" columns={useState([{ name: 'id' }, { name: 'passed_at' }])[0]} {...useAddressView()} />,
  // Everything is made again at every drawing, but what says that it must not be.
  inline() {
    const [count, setCount] = useState(0);
    useEffect(() => { window.again = () => setCount((last) => last + 1); }, []);
    return (
      <TableView client={client} table="passages" query={{ ...client.table('passages').sort('id').query }} label={'drawn ' + count}
        instead={{ loading: <p>{count}</p> }} selected={[]} onPress={() => say(count)} classOfRow={() => 'row-' + count}
        onViewChange={() => say('view')} extraColumns={['note']} />
    );
  },
  bare: () => <><p>above</p><TableView client={client} table="passages" /><p>below</p></>,
  chosen() {
    const [actions] = useState([
      { label: 'Stamp', run: async (chosen, { count, query, progress, clear }) => {
        const { rows } = await client.rows('passages', { ...query, limit: 1 });
        say([chosen.kind, count, rows.length].join(' '));
        for (let done = 1; done <= 3; done += 1) {
          progress(done, 3);
          await new Promise((resolve) => { window.go = resolve; });
        }
        clear();
      } },
      { label: 'Burn', run: () => { throw new Error('the stove is cold'); } },
    ]);
    return <TableView client={client} table="passages" selectable actions={actions} {...useAddressView()}
      query={client.table('passages').sort('id').query} onSelectedChange={(keys, chosen) => say(keys.length + ' ' + chosen.kind)} />;
  },
  beside() {
    const stored = useStoredSelection('passages');
    return (
      <div style={{ display: 'grid', gridTemplateColumns: '1fr 1fr', height: '100vh' }}>
        <section style={{ minHeight: 0 }}><TableView client={client} table="passages" selectable query={client.table('passages').sort('id').query} {...stored} /></section>
        <section style={{ minHeight: 0 }}><TableView client={client} table="passages" label="Chosen" query={chosenQuery(stored.selected)} /></section>
      </div>
    );
  },
  // Stated again at every drawing, of which each answer brings another one.
  anew: () => <TableView client={client} table="passages" selectable defaultView={client.table('passages').where((is) => is.below('id', 10)).query}
    selected={{ kind: 'matching', filter: 'toll > 100', except: ['3'] }} />,
  given: () => <TableView client={client} table="passages" selectable selected={['1', '2', '99999999']} />,
  summed: () => <TableView client={client} table="passages" selectable query={client.table('passages').sort('id').aggregate('sum(toll)').query} />,
  single: () => <TableView client={client} table="locks" columns={named} selectable="single" onSelectedChange={(keys) => say(keys.join())} />,
  waiting() {
    // On its way, made once outside of what waits for it.
    return <Suspense fallback={<p>the book is fetched</p>}><Waiting /></Suspense>;
  },
  two: () => (
    <div style={{ display: 'grid', gridTemplateColumns: '1fr 1fr', height: '100vh' }}>
      <section style={{ minHeight: 0 }}><TableView client={client} table="locks" columns={named} selectable /></section>
      <section style={{ minHeight: 0 }}><TableView client={client} table="boats" selectable /></section>
    </div>
  ),
  hidden() {
    const [tab, setTab] = useState('first');
    return (
      <>
        <button onClick={() => setTab('second')}>second</button>
        <div style={{ display: tab === 'first' ? 'block' : 'none' }}>first</div>
        <div style={{ display: tab === 'second' ? 'block' : 'none', height: '80vh' }}><TableView client={client} table="passages" /></div>
      </>
    );
  },
};
// Drawn on a server first: the very same is drawn here, and goes on from there.
const taken = window.first;
if (taken !== undefined) {
  hydrateRoot(document.getElementById('root'), <StrictMode><div style={{ height: '100vh' }}>
    <TableView client={client} table="locks" columns={[{ name: 'id' }, { name: 'name' }, { name: 'canal.name' }]}
      locale="en" timeZone="Europe/Paris" reading={taken.reading} initial={taken.rows} />
  </div></StrictMode>);
}
const Page = pages[location.hash.slice(1)];
const bare = location.hash === '#bare' || location.hash === '#hidden';
if (taken === undefined) createRoot(document.body.appendChild(document.createElement('div'))).render(
  <StrictMode>{bare ? <Page /> : <div style={{ height: '100vh' }}><Page /></div>}</StrictMode>,
);
`;
