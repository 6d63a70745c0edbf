/** A page of tables whose rows are opened, copied and queried, each by the name behind the hash. */
export const cardPages = `
import { createClient } from '@ephoros/client';
import { arabic, RowCard, TableView, useAddressView } from '@ephoros/react';
import '@ephoros/react/table.css';
import { StrictMode, useState } from 'react';
import { createRoot } from 'react-dom/client';

window.log = [];
const client = createClient({ url: '/api' });
const say = (text) => window.log.push(text);

const pages = {
  rows: () => <TableView client={client} table="passages" selectable card timeZone="Europe/Paris" locale="en" {...useAddressView()} onOpenRow={undefined} />,
  paged: () => <TableView client={client} table="locks" card reading="pages" query={{ limit: 5 }} locale="en" />,
  told() {
    const [key, setKey] = useState('35');
    return <TableView client={client} table="locks" card openRow={key} onOpenRow={(next) => { say(String(next)); setKey(next); }}
      addressOf={(place) => ('row' in place ? '/at/' + place.table + '/' + place.row : '/all/' + place.table)} />;
  },
  drawn: () => <TableView client={client} table="locks" card={({ row, key, next, close }) => (
    <p>lock {key} is called {row.name} on {row['canal.name']} <button onClick={next}>go on</button> <button onClick={close}>shut</button></p>
  )} />,
  under: () => <TableView client={client} table="locks" card cardPlace="under" locale="en" />,
  alone: () => <RowCard client={client} table="locks" rowKey={new URLSearchParams(location.search).get('key')} onClose={() => say('closed')} />,
  arabic: () => <TableView client={client} table="passages" card messages={arabic} />,
};
const Page = pages[location.hash.slice(1)];
createRoot(document.body.appendChild(document.createElement('div'))).render(
  <StrictMode><div style={{ height: '100vh' }}><Page /></div></StrictMode>,
);
`;
