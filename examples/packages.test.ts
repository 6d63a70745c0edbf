import { execFile, execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import express from 'express';
import type { Page } from 'playwright-core';
import { createRouter } from '@ephoros/service';
import { testDatabases } from '../demo/src/testing/databases.ts';
import { launch, pageIn, start } from './fixtures.ts';
import { startService } from '../packages/service/src/testing/service.ts';

const packed = ['core', 'client', 'react', 'service', 'cli'] as const;

interface Pack {
  readonly name: string;
  readonly filename: string;
  readonly files: readonly { readonly path: string }[];
}

/** Runs a program to its end; what it says on both streams is in the error where it fails. */
function run(folder: string, program: string, args: readonly string[]): string {
  try {
    return execFileSync(program, args, { cwd: folder, encoding: 'utf8', stdio: 'pipe' });
  } catch (thrown) {
    const { stdout, stderr } = thrown as { stdout: string; stderr: string };
    throw new Error(`${program} ${args.join(' ')}\n${stdout}${stderr}`, { cause: thrown });
  }
}

/** Every folder of that name below another, however deep. */
function foldersCalled(name: string, folder: string): string[] {
  return readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isDirectory() && entry.name === name)
    .map(({ parentPath }) => join(parentPath, name))
    .filter((path) => path.endsWith(join('node_modules', name)));
}

interface Program {
  readonly name: string;
  readonly files: Readonly<Record<string, string>>;
  /** What its page does, once it is open. */
  readonly page: (page: Page) => Promise<void>;
}

const example = (file: string): string => readFileSync(join('examples', file), 'utf8');
const index = `<!doctype html><html lang="en"><meta charset="utf-8" />
  <style>body { margin: 0 } #root { height: 100vh }</style>
  <div id="root"></div><script type="module" src="main.tsx"></script></html>`;
const says = (page: Page, text: string): Promise<void> =>
  page.locator('[role=status], output').filter({ hasText: text }).first().waitFor();

const programs: readonly Program[] = [
  {
    name: 'a page with the finished table',
    files: { 'index.html': index, 'main.tsx': example('react-table/main.tsx') },
    page: async (page) => {
      await says(page, `of ${testDatabases().passages.toLocaleString('en')}`);
      await page.getByRole('columnheader', { name: 'Toll' }).getByText('Toll').click();
      await page.waitForURL(/sort=toll/);
    },
  },
  {
    name: 'a table of its own on the hook',
    files: { 'index.html': index, 'main.tsx': example('react-own-table/main.tsx') },
    page: async (page) => {
      await says(page, 'page 1 of 7');
      await page.getByText('Next').click();
      await says(page, 'page 2 of 7');
    },
  },
  {
    name: 'a CSV file',
    files: {
      'index.html': index,
      'main.tsx': example('local-csv/main.tsx'),
      'locks.csv': example('local-csv/locks.csv'),
    },
    page: async (page) => {
      await says(page, 'of 64');
      await page.getByRole('searchbox').fill('gate');
      await page.waitForFunction(() => !document.body.textContent.includes('of 64'));
    },
  },
  {
    name: 'a backend of its own',
    files: {
      'index.html': index,
      'main.tsx': `import { rowsFrom, type WantedWindow, type WrittenQuery } from '@ephoros/client';
        import { TableView, type ColumnDefinition } from '@ephoros/react';
        import '@ephoros/react/table.css';
        import { createRoot } from 'react-dom/client';
        interface Buoy { id: number; colour: string; depth: number }
        const buoys: Buoy[] = Array.from({ length: 300 }, (_, id) => ({ id, colour: id % 2 ? 'red' : 'green', depth: (id * 7) % 90 }));
        const answer = ({ offset, limit, conditions = [], sort }: WantedWindow) => {
          let found = buoys.filter((buoy) => conditions.every((one) =>
            one.is === '=' && 'value' in one ? String(buoy[one.column as keyof Buoy]) === String(one.value) : true));
          for (const { column, descending } of [...sort].reverse()) {
            const name = column as keyof Buoy;
            found = [...found].sort((one, other) => (one[name] > other[name] ? 1 : -1) * (descending ? -1 : 1));
          }
          return Promise.resolve({ rows: found.slice(offset, offset + limit), total: found.length });
        };
        const source = (query: WrittenQuery) => rowsFrom<Buoy>(answer, { query });
        const columns: readonly ColumnDefinition[] = [
          { name: 'id', type: { kind: 'integer', bits: 32 } }, { name: 'colour' }, { name: 'depth', type: { kind: 'integer', bits: 32 } },
        ];
        createRoot(document.querySelector('#root')!).render(
          <TableView source={source} columns={columns} rowKey={['id']} label="Buoys" />);`,
    },
    page: async (page) => {
      await says(page, 'of 300');
      await page.getByRole('columnheader', { name: 'Depth' }).getByText('Depth').click();
      await page.getByRole('columnheader', { name: 'Depth' }).getByText('Depth').click();
      await page.locator('[aria-rowindex="2"] [aria-colindex="3"]', { hasText: '89' }).waitFor();
      await page.getByRole('textbox', { name: 'Filter' }).fill("colour = 'red'");
      await page.keyboard.press('Enter');
      await says(page, 'of 150');
    },
  },
];

describe('the packages', () => {
  let folder: string;
  let packs: readonly Pack[];

  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), 'ephoros-packages-'));
    const workspaces = packed.flatMap((name) => ['-w', `packages/${name}`]);
    const message = run(process.cwd(), 'npm', [
      'pack',
      '--json',
      '--pack-destination',
      folder,
      ...workspaces,
    ]);
    packs = JSON.parse(message) as Pack[];
    writeFileSync(
      join(folder, 'package.json'),
      JSON.stringify({ name: 'empty', private: true, type: 'module' }),
    );
    run(folder, 'npm', [
      'install',
      '--no-audit',
      '--no-fund',
      '--ignore-scripts',
      '--prefer-offline',
      '--loglevel=error',
      ...packs.map(({ filename }) => `./${filename}`),
      'react@19.3.1',
      'react-dom@19.3.1',
      '@types/react@19.3.0',
      '@types/react-dom@19.3.0',
      '@types/node@20.19.43',
    ]);
  }, 240_000);

  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  it('hold what is run and its types, and nothing else', () => {
    expect(packs.map(({ name }) => name).sort()).toEqual(
      packed.map((name) => `@ephoros/${name}`).sort(),
    );
    for (const { name, files } of packs) {
      const paths = files.map(({ path }) => path);
      expect(paths).toEqual(expect.arrayContaining(['README.md', 'LICENSE']));
      expect(paths.filter((path) => path.endsWith('.js')).length).toBeGreaterThan(5);
      // Nobody imports the command.
      const imported = paths.filter((one) => one.endsWith('.js') && !one.startsWith('program/'));
      for (const path of imported) {
        expect(paths).toContain(path.replace(/\.js$/, '.d.ts'));
      }
      const known =
        /^(README\.md|LICENSE|package\.json|src\/styles\/[\w-]+\.css(\.d\.ts)?|bin\/ephoros\.mjs|migrations\/(\d+_\w+\.sql|meta\/_journal\.json)|dist\/.*\.(js|d\.ts)|program\/[\w-]+\.js)$/;
      expect([name, paths.filter((path) => !known.test(path))]).toEqual([name, []]);
      expect([name, paths.filter((path) => /\.test\.|\/testing\//.test(path))]).toEqual([name, []]);
    }
  });

  it('bring no second React, nor a second core', () => {
    const modules = join(folder, 'node_modules');
    expect(foldersCalled('react', modules)).toEqual([join(modules, 'react')]);
    expect(foldersCalled('core', join(modules, '@ephoros'))).toEqual([]);
  });

  it('compile in an empty project, with all that their types promise', async () => {
    mkdirSync(join(folder, 'src'), { recursive: true });
    writeFileSync(
      join(folder, 'tsconfig.json'),
      JSON.stringify({
        compilerOptions: {
          strict: true,
          noEmit: true,
          module: 'nodenext',
          target: 'es2023',
          lib: ['es2023', 'dom'],
          jsx: 'react-jsx',
          types: ['node'],
        },
        include: ['src'],
      }),
    );
    writeFileSync(
      join(folder, 'src/page.tsx'),
      `import { createClient, type RowSource } from '@ephoros/client';
       import { createLocalClient, cacheSmallResults } from '@ephoros/client/local';
       import { arabic, TableView, useRecords } from '@ephoros/react';
       const client = cacheSmallResults(createClient({ url: '/api' }), { maxRows: 500 });
       const local = createLocalClient({ t: { csv: 'a\\n1' } });
       export const Page = () => <TableView client={client} table="passages" messages={arabic} />;
       export const Own = () => <p>{useRecords({ client: local, table: 't' }).rows.length}</p>;
       export const source: RowSource = client.table('passages').source();
       // @ts-expect-error a table has no such property
       export const Wrong = () => <TableView client={client} tabel="passages" />;
      `,
    );
    writeFileSync(
      join(folder, 'src/typed.tsx'),
      `import { createClient } from '@ephoros/client';
       import { cacheSmallResults } from '@ephoros/client/local';
       import { TableView, useRecords, useView, type ColumnDefinition, type Condition } from '@ephoros/react';
       import type { Tables } from './tables.ts';
       const client = cacheSmallResults(createClient<Tables>({ url: '/api' }));
       const columns: readonly ColumnDefinition<Tables['passages']>[] = [
         { name: 'id', width: 80 },
         { name: 'status', render: (status) => (status === 'disputed' ? '!' : status) },
         // @ts-expect-error no such status
         { name: 'status', render: (status) => (status === 'disputd' ? '!' : status) },
         { name: 'lock.name', render: (name, row) => name?.toUpperCase() ?? row.note },
         { name: 'toll', classOfCell: (toll) => (toll === null ? 'exempt' : undefined) },
         // @ts-expect-error no such column
         { name: 'tol' },
       ];
       export const first = client.table('passages').where((is) => is.above('toll', 4)).sort('-toll').query;
       export const Page = () => (
         <TableView client={client} table="passages" columns={columns} extraColumns={['note']}
           defaultView={first} onActivate={({ id, status }) => client.row('passages', [id ?? 0])} />
       );
       // @ts-expect-error no such table
       export const Wrong = () => <TableView client={client} table="passage" />;
       export const Own = () => {
         const { rows, headers } = useRecords({ client, table: 'passages', columns: ['id', 'lock.name'] });
         const conditions: readonly (Condition | undefined)[] = headers.map(({ condition }) => condition);
         const names: readonly (string | null | undefined)[] = rows.map((row) => row?.['lock.name']);
         // @ts-expect-error not among the columns
         const notes = rows.map((row) => row?.note);
         return <p>{names.length + conditions.length}{notes}</p>;
       };
       // @ts-expect-error no such column
       export const Other = () => <p>{useRecords({ client, table: 'passages', columns: ['tol'] }).total}</p>;
       export const Kept = () => <p>{useView({ defaultView: first })[0].reading}</p>;
      `,
    );
    const service = await startService(testDatabases().lowmere);
    try {
      const command = 'node_modules/@ephoros/cli/bin/ephoros.mjs';
      const requests = ['types', '--out', 'src/tables.ts', '--url', `${service.url}/api`];
      // Next to the service, which answers meanwhile.
      await promisify(execFile)(process.execPath, [command, ...requests], { cwd: folder });
    } finally {
      await service.close();
    }
    run(folder, process.execPath, [join(process.cwd(), 'node_modules/typescript/bin/tsc')]);
  });

  it('bring a command that asks without what it does not need, and says what is missing', () => {
    const command = (...args: string[]): string => {
      try {
        return run(folder, process.execPath, [
          'node_modules/@ephoros/cli/bin/ephoros.mjs',
          ...args,
        ]);
      } catch (thrown) {
        return (thrown as Error).message;
      }
    };
    expect(command('--version').trim()).toMatch(/^\d+\.\d+\.\d+$/);
    expect(command('tables', '--url', 'http://127.0.0.1:1')).toContain('cannot be reached');
    expect(command('demo')).toContain('This needs the package @ephoros/demo');
  });

  it('run in an empty project', () => {
    writeFileSync(
      join(folder, 'src/main.js'),
      `import { createServer } from 'node:http';
       import { createClient } from '@ephoros/client';
       import { createRouter } from '@ephoros/service';
       import express from 'express';
       const router = createRouter({ database: process.argv[2] });
       const server = createServer(express().use('/records', router)).listen(0, async () => {
         const client = createClient({ url: \`http://127.0.0.1:\${server.address().port}/records\` });
         const { rows } = await client.table('locks').columns('name').sort('name').limit(1).rows();
         process.stdout.write(rows[0].name);
         server.close();
         server.closeAllConnections();
         await router.close();
       });
      `,
    );
    const written = run(folder, process.execPath, ['src/main.js', testDatabases().lowmere]);
    expect(written).toBe('Alder Gate');
  });

  it.each(programs)(
    'are all that a program needs: $name',
    async ({ files, page: shown }) => {
      const own = join(folder, 'program');
      rmSync(own, { recursive: true, force: true });
      mkdirSync(own);
      for (const [name, text] of Object.entries(files)) writeFileSync(join(own, name), text);
      // As the program's own author would: types first, then the page.
      writeFileSync(
        join(own, 'tsconfig.json'),
        JSON.stringify({
          compilerOptions: {
            ...{ strict: true, noEmit: true, module: 'esnext', moduleResolution: 'bundler' },
            ...{ target: 'es2023', lib: ['es2023', 'dom'], jsx: 'react-jsx', types: [] },
          },
          files: ['main.tsx', 'files.d.ts'],
        }),
      );
      writeFileSync(
        join(own, 'files.d.ts'),
        `declare module '*.css';\ndeclare module '*?raw' { const text: string; export default text }`,
      );
      const root = join(process.cwd(), 'node_modules');
      run(own, process.execPath, [join(root, 'typescript/bin/tsc')]);
      run(own, process.execPath, [join(root, 'vite/bin/vite.js'), 'build', '--logLevel', 'error']);
      const router = createRouter({ database: testDatabases().lowmere });
      const server = createServer(
        express()
          .use('/api', router)
          .use(express.static(join(own, 'dist'))),
      ).listen(0, '127.0.0.1');
      const browser = await launch();
      try {
        const { page, complaints } = await pageIn(browser);
        await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
        await shown(page);
        expect(complaints).toEqual([]);
      } finally {
        await browser.close();
        server.closeAllConnections();
        await new Promise((resolve) => server.close(resolve));
        await router.close();
      }
    },
    240_000,
  );

  it('are all that an application with a login and rules needs', async () => {
    const text = readFileSync('examples/own-application/server.js', 'utf8');
    writeFileSync(join(folder, 'server.js'), text);
    const app = await start(join(folder, 'server.js'), [], {
      DATABASE_URL: testDatabases().lowmere,
    });
    try {
      expect((await fetch(`${app.url}/records/tables`, { redirect: 'manual' })).status).toBe(302);
      const signedIn = await fetch(`${app.url}/sign-in`, {
        method: 'POST',
        body: new URLSearchParams({ keeper: 'rosa', password: 'heron' }),
        redirect: 'manual',
      });
      const cookie = signedIn.headers.get('set-cookie')?.split(';')[0] ?? '';
      const rows = `${app.url}/records/tables/passages/rows?columns=lock_id&limit=1000`;
      const answer = (await (await fetch(rows, { headers: { cookie } })).json()) as {
        rows: readonly { lock_id: number }[];
      };
      expect(answer.rows.length).toBeGreaterThan(10);
      expect(new Set(answer.rows.map(({ lock_id }) => lock_id))).toEqual(new Set([3]));
    } finally {
      await app.stop();
    }
  });
});
