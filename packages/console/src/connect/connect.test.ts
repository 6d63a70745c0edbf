import { execFile, spawn } from 'node:child_process';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { servePage } from '../../../react/src/testing/built-page.ts';
import { startService } from '../../../service/src/testing/service.ts';
import { consoleFolder, consoleOver, open, page, service } from '../testing/fixtures.ts';

const { lowmere } = testDatabases();
const run = promisify(execFile);
// Within the project, so that its packages are found.
const folder = join(process.cwd(), '.ephoros/test/connect');

consoleOver(() => startService(lowmere, '', { consoleFolder }));

beforeAll(() => mkdirSync(folder, { recursive: true }));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const views = {
  rows: {
    columns: 'id,passed_at,lock.name,status',
    filter: `status IN ('disputed', 'waived') AND note <> 'it''s "odd" $(x) \\ $\{y}'`,
    search: 'the "e "',
    sort: '-toll,lock.name',
    nulls: 'first',
    limit: '2',
    page: '2',
  },
  plain: {},
  groups: {
    filter: 'toll > 1',
    group: "lock.canal.name,bin(passed_at, 'P1Y')",
    aggregate: 'count(),sum(toll),percentile(wait_minutes, 90)',
    sort: '-sum(toll),-passed_at',
  },
} as const;

type Name = keyof typeof views;

/** The code that the console shows for a view, by the name of its tab. */
async function shown(view: Name): Promise<Readonly<Record<string, string>>> {
  const appearance = { 'row-style': 'striped', paint: '[{"bar":"toll"}]', chart: 'bars,status' };
  const wanted = { ...views[view], ...(view === 'rows' ? appearance : {}) };
  await open(`/tables/passages?${new URLSearchParams(wanted).toString()}`);
  await page.getByText('Code', { exact: true }).click();
  const code: Record<string, string> = {};
  for (const tab of await page.getByRole('tab').all()) {
    await tab.click();
    code[(await tab.textContent()) ?? ''] = (await page.getByTestId('code').textContent()) ?? '';
  }
  return code;
}

/** What the service answers to the very view. */
async function expected(view: Name): Promise<{ total: number; lines: any[] }> {
  const query = view === 'groups' ? 'groups' : 'rows';
  // Rows have their own sort, and groups theirs.
  const parameters = { ...views[view], ...(view === 'groups' ? { sort: '-sum(toll)' } : {}) };
  const search = new URLSearchParams(parameters).toString();
  const { status, body } = await service.get(`/api/tables/passages/${query}?${search}`);
  expect(status).toBe(200);
  const lines: any[] = body.rows ?? body.groups;
  expect(lines.length).toBeGreaterThan(0);
  return { total: body.window.total, lines };
}

function linesOf(text: string): { total: number; lines: any[] } {
  const { total, window, rows, groups } = JSON.parse(text);
  return { total: total ?? window.total, lines: rows ?? groups };
}

function written(name: string, code: string): string {
  const file = join(folder, name);
  writeFileSync(file, code);
  return file;
}

describe('what the console shows to connect', () => {
  it.each<Name>(['rows', 'plain', 'groups'])('asks for what is on the screen: %s', async (view) => {
    const code = await shown(view);
    const wanted = await expected(view);
    expect(Object.keys(code)).toEqual(['URL', 'curl', 'fetch', 'Client', 'React', 'Router']);

    const fetched = await fetch(code.URL ?? '');
    expect(linesOf(await fetched.text())).toEqual(wanted);
    const { stdout: curled } = await run('sh', ['-c', code.curl ?? '']);
    expect(linesOf(curled)).toEqual(wanted);
    for (const name of ['fetch', 'Client']) {
      const file = written(`${view}-${name}.mjs`, code[name] ?? '');
      const { stdout } = await run(process.execPath, [file], { maxBuffer: 1e8 });
      const { total, lines } = linesOf(stdout);
      expect([name, total, lines.length]).toEqual([name, wanted.total, wanted.lines.length]);
      expect(lines).toEqual(wanted.lines);
    }
  });

  it.each<Name>(['rows', 'groups'])('is a route of an application: %s', async (view) => {
    const { Router: code = '' } = await shown(view);
    const wanted = await expected(view);
    const child = spawn(process.execPath, [written(`${view}-router.mjs`, code)], {
      env: { ...process.env, DATABASE_URL: lowmere, PORT: '0' },
    });
    try {
      const url = await new Promise<string>((resolve, reject) => {
        child.stdout.once('data', (data: Buffer) => resolve(data.toString().trim()));
        child.stderr.once('data', (data: Buffer) => reject(new Error(data.toString())));
      });
      const answer: any = await (await fetch(url)).json();
      expect(Array.isArray(answer) ? answer : answer.groups).toEqual(wanted.lines);
    } finally {
      child.kill();
    }
  });

  it.each<Name>(['rows', 'groups'])('is a page with the finished table: %s', async (view) => {
    const { React: code = '' } = await shown(view);
    const wanted = await expected(view);
    const served = await servePage(`connect-${view}`, code, lowmere);
    try {
      await page.goto(served.url);
      if (view === 'rows') {
        const first = page.locator('.eph-row').first();
        await first.filter({ hasText: wanted.lines[0].id }).waitFor();
        await page.getByText(`of ${wanted.total.toLocaleString('en')}`).waitFor();
      } else {
        const first = page.locator('.eph-group').first();
        await first.filter({ hasText: wanted.lines[0].value }).waitFor();
        await page.locator('.eph-mark').first().click();
        await page.locator('.eph-row[aria-level="2"]').first().waitFor();
      }
    } finally {
      await page.goto('about:blank');
      await served.close();
    }
  });

  it('is copied by a button', async () => {
    await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
    await open('/tables/locks');
    await page.getByText('Code', { exact: true }).click();
    await page.getByRole('button', { name: 'Copy' }).click();
    await page.getByText('Copied').waitFor();
    expect(await page.evaluate(() => navigator.clipboard.readText())).toBe(
      `${service.url}/api/tables/locks/rows`,
    );
  });
});
