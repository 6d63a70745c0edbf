import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { renderToString } from 'react-dom/server';
import { createClient } from '@ephoros/client';
import { TableView } from '../index.ts';
import { firstRows } from '../server.ts';
import { ownPages } from '../testing/own-pages.ts';
import { hold } from '../../../../examples/fixtures.ts';
import { tableTests } from '../testing/table-tests.ts';

const at = tableTests('server-table', ownPages);
const { open, says } = at;

afterEach(() => expect(at.complaints).toEqual([]));

describe('a table that is drawn on a server', () => {
  const columns = [{ name: 'id' }, { name: 'name' }, { name: 'canal.name' }];

  it.each(['scroll', 'pages'] as const)(
    'is taken over by the page without asking for its rows again: %s',
    async (reading) => {
      const client = createClient({ url: `${at.served.url}/api` });
      const rows = await firstRows({ client, table: 'locks', columns, reading });
      // As it crosses the wire.
      const crossed = JSON.parse(JSON.stringify(rows)) as typeof rows;
      const html = renderToString(
        <div style={{ height: '100vh' }}>
          <TableView
            {...{ client: createClient({ url: 'http://127.0.0.1:1' }), table: 'locks', columns }}
            {...{ locale: 'en', timeZone: 'Europe/Paris', reading, initial: crossed }}
          />
        </div>,
      );
      const names = rows.block?.answer.rows.slice(0, 10).map(({ name }) => name as string) ?? [];
      expect(names).toHaveLength(10);
      for (const name of names) expect(html).toContain(name);
      const built = readFileSync(join(at.served.folder, 'index.html'), 'utf8');
      const first = JSON.stringify({ reading, rows }).replaceAll('<', '\\u003c');
      const body = built.replace(
        '<body>',
        `<body><div id="root">${html}</div><script>window.first = ${first}</script>`,
      );
      await at.page.route('**/drawn', (route) =>
        route.fulfill({ body, contentType: 'text/html; charset=utf-8' }),
      );
      const given: string[] = [];
      at.page.on('request', (request) => given.push(request.url()));
      await at.page.goto(`${at.served.url}/drawn`);
      await says('of 64');
      // The sentence is there, the columns can be changed: it is as any table.
      await at.page.getByRole('columnheader', { name: 'Name' }).getByText('Name').click();
      await at.page.locator('[aria-sort=ascending]').waitFor();
      await says('of 64');
      // Whether others have written is checked from then on.
      const requests = given.filter((url) => /\/api\/(?!.*\/written)/.test(url));
      expect(requests.filter((url) => !url.includes('/rows'))).toEqual([]);
      const forRows = requests.filter((url) => !url.includes('limit=1&'));
      expect(forRows.map((url) => new URL(url).searchParams.get('sort'))).toEqual(['name']);
    },
  );

  it('is waited for where it is on its way, and asks itself where that fails', async () => {
    const go = await hold(at.page, '**/rows?*');
    await open('waiting');
    await at.page.getByText('the book is fetched').waitFor();
    go();
    await says('of 64');
    await at.page.goto(`${at.served.url}/?refused#waiting`);
    await says('of 64');
  });
});
