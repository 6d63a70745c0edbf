import { execFile } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { promisify } from 'node:util';
import { tableFromIPC } from 'apache-arrow';
import type { Locator } from 'playwright-core';
import { freshDatabase } from '../../../demo/src/testing/databases.ts';
import { holdCount } from '../../../examples/fixtures.ts';
import { startService } from '../../service/src/testing/service.ts';
import { consoleFolder, consoleOver, loaded, open, page, until } from './testing/fixtures.ts';

const many = 3_000;
const configuration = `
tables:
  barges:
    sort: id
    columns:
      state: { label: Whereabouts, valueLabels: { out: on the water, in: at rest } }
`;
let url: string;
let drop: () => Promise<void>;

beforeAll(async () => {
  ({ url, drop } = await freshDatabase('ephoros_taking_out', [
    `create table barges (id int primary key, name text, state text, tons numeric(6, 1))`,
    `insert into barges select n, case when n = 7 then 'He said "go", then; left' else 'Barge ' || n end,
       case n % 3 when 0 then 'out' when 1 then 'in' end, n / 10.0 from generate_series(1, ${many}) n`,
    'create view doomed as select id, 1 / (2900 - id) as n, repeat(name, 40) as wide from barges',
    'analyze barges',
  ]));
});

afterAll(() => drop());

consoleOver(() => startService(url, configuration, { consoleFolder }));

const sheet = (): Locator => page.getByRole('dialog', { name: 'Export' });

/** Opens the sheet over what is shown, once it knows how large the file will be. */
async function begun(path: string): Promise<void> {
  await open(path);
  await page.locator('[aria-busy=false] .eph-row').first().waitFor();
  await page.getByRole('button', { name: 'Export' }).click();
  await until(
    () => sheet().getByRole('status').first().textContent(),
    /^about [\d.,]+ (bytes|kB|MB)$/,
  );
}

async function saved(): Promise<{ readonly name: string; readonly bytes: Buffer }> {
  const coming = page.waitForEvent('download');
  await sheet().getByRole('button', { name: 'Export' }).click();
  const download = await coming;
  const bytes = await readFile(await download.path());
  return { name: download.suggestedFilename(), bytes };
}

describe('rows taken out of a table', () => {
  it('are offered as a report of the very view', async () => {
    await begun('/tables/barges?filter=id%20%3C%3D%20900&sort=-id&chart=bars,state');
    const link = async (name: string): Promise<URL> => {
      const href = await sheet().getByRole('link', { name }).getAttribute('href');
      return new URL(href ?? '', page.url());
    };
    const report = await link('HTML page');
    expect(report.pathname).toBe('/report/tables/barges');
    expect(Object.fromEntries(report.searchParams)).toMatchObject({
      filter: 'id <= 900',
      sort: '-id',
      chart: 'bars,state',
      format: 'html',
      language: 'en',
    });
    expect((await link('PDF')).searchParams.get('format')).toBe('pdf');
  });

  it('are those that match, as they are shown, in a file of about the size that was stated', async () => {
    await begun('/tables/barges?filter=id%20%3C%3D%20900&columns=name,state&sort=-id');
    expect(await sheet().getByRole('radio').allInnerTexts()).toEqual(
      expect.arrayContaining(['All matching (900)', 'This page (50)', 'Visible (2)']),
    );
    const about = Number(/[\d.]+/.exec(await sheet().getByRole('status').first().innerText()));
    const { name, bytes } = await saved();
    expect(name).toBe('barges.csv');
    const lines = bytes.toString().split('\r\n');
    expect(lines.slice(0, 4)).toEqual([
      'Name,Whereabouts',
      'Barge 900,on the water',
      'Barge 899,',
      'Barge 898,at rest',
    ]);
    expect(lines).toContain('"He said ""go"", then; left",at rest');
    expect(lines).toHaveLength(902);
    expect(bytes.length / 1_000 / about).toBeCloseTo(1, 0);
    await until(
      () => sheet().getByRole('status').textContent(),
      new RegExp(`^barges\\.csv: ${(bytes.length / 1_000).toFixed(0)} kB$`),
    );
  });

  it('are as many behind groups as are counted, however long that takes', async () => {
    await open('/tables/barges?group=state');
    await loaded(page.getByRole('treegrid'));
    const go = await holdCount(page, 3_111);
    await page.getByRole('button', { name: 'Export' }).click();
    await sheet().getByText('All matching (…)').waitFor();
    go();
    await sheet().getByText('All matching (3,000)').waitFor();
  });

  it('are not those that were selected under another filter, unless that is chosen', async () => {
    await open('/tables/barges?group=state');
    await loaded(page.getByRole('treegrid'));
    await page.locator('.eph-group').first().getByRole('checkbox').click();
    await page.getByTestId('selection').waitFor();
    await open('/tables/barges?filter=tons > 100&columns=name');
    await loaded();
    await page.getByText('under another filter').waitFor();
    await page.getByRole('button', { name: 'Export' }).click();
    const other = sheet().getByText(/^Selected under another filter \([\d,]+\)$/);
    await other.waitFor();
    expect(await other.getAttribute('aria-checked')).toBe('false');
    const all = sheet().getByText(/^All matching/);
    expect(await all.getAttribute('aria-checked')).toBe('true');
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Clear selection' }).click();
  });

  it('are those that are selected, or those of the page, with other columns and as other files', async () => {
    await open('/tables/barges?page=2&columns=name');
    await loaded();
    for (const row of [1, 3]) await page.locator('.eph-row').nth(row).getByRole('checkbox').check();
    await page.getByRole('button', { name: 'Export' }).click();
    await sheet().getByText('All (4)').click();
    await sheet().getByText('NDJSON').click();
    expect(await sheet().getByText('Selected (2)').getAttribute('aria-checked')).toBe('true');
    await sheet().getByText('Format options').click();
    await sheet().getByText('Value labels').click();
    const selected = await saved();
    expect(selected.name).toBe('barges.ndjson');
    expect(
      selected.bytes
        .toString()
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line)),
    ).toEqual([
      { id: 52, name: 'Barge 52', state: 'in', tons: '5.2' },
      { id: 54, name: 'Barge 54', state: 'out', tons: '5.4' },
    ]);
    await sheet().getByRole('button', { name: 'Export again' }).click();
    await sheet().getByText('This page (50)').click();
    await sheet().getByText('Arrow').click();
    const paged = tableFromIPC((await saved()).bytes);
    expect(paged.toArray().map((row) => row.toJSON().name)).toEqual(
      Array.from({ length: 50 }, (_, index) => `Barge ${51 + index}`),
    );
  });

  it('are a line for each group where they are grouped, or its rows, group by group', async () => {
    await open(
      '/tables/barges?group=state&aggregate=sum(tons)&filter=id%20%3C%2010&columns=id,state',
    );
    await page.locator('[aria-busy=false] .eph-row').first().waitFor();
    await page.getByRole('button', { name: 'Export' }).click();
    const grouped = (await saved()).bytes.toString();
    expect(grouped).toBe(
      'Whereabouts,Count,Sum of tons\r\nat rest,3,1.2\r\non the water,3,1.8\r\n,3,1.5\r\n',
    );
    await sheet().getByRole('button', { name: 'Export again' }).click();
    await sheet().getByText('All matching').click();
    await sheet().getByText('Rows of the groups, in group order.').waitFor();
    const lines = (await saved()).bytes.toString().trim().split('\r\n').slice(1);
    expect(lines.map((line) => line.split(',')[0])).toEqual([
      ...['1', '4', '7', '3', '6', '9', '2', '5', '8'],
    ]);
  });

  it('are the same by the commands that are shown', async () => {
    await begun('/tables/barges?filter=id%20%3C%3D%2020&columns=id,name');
    await sheet().getByText('Command line').click();
    const [curl = '', command = ''] = await sheet().locator('pre').allInnerTexts();
    const { bytes } = await saved();
    const { stdout } = await promisify(execFile)('sh', [
      '-c',
      curl.replace("--output 'barges.csv'", '--silent'),
    ]);
    expect(stdout).toBe(bytes.toString());
    const own = `${process.execPath} packages/cli/bin/ephoros.mjs`;
    const made = await promisify(execFile)('sh', [
      '-c',
      command.replace(/^ephoros/, own).replace("--out 'barges.csv'", '--format csv'),
    ]);
    expect(made.stdout).toBe(bytes.toString());
  });
});

it('is offered in the other language as well', async () => {
  await page.addInitScript(() =>
    localStorage.setItem('ephoros.preferences', JSON.stringify({ language: 'ar' })),
  );
  await open('/tables/barges?columns=name,state&filter=id%20%3C%3D%203');
  await page.locator('[aria-busy=false] .eph-row').first().waitFor();
  await page.getByRole('button', { name: 'تصدير' }).click();
  const arabic = page.getByRole('dialog', { name: 'تصدير' });
  await arabic.getByText('كل المطابق').waitFor();
  await until(() => arabic.getByRole('status').first().textContent(), /^نحو /);
  const coming = page.waitForEvent('download');
  await arabic.getByRole('button', { name: 'تصدير' }).click();
  const bytes = await readFile(await (await coming).path());
  expect(bytes.toString()).toBe(
    'Name,Whereabouts\r\nBarge 1,at rest\r\nBarge 2,\r\nBarge 3,on the water\r\n',
  );
  await until(() => arabic.getByRole('status').textContent(), /^حُفظ barges\.csv: /);
});

describe('a file that takes long', () => {
  it('shows how far it is while the sheet is closed, and is cancelled', async () => {
    await begun('/tables/barges');
    // The rest of it never comes.
    await page.evaluate(() => {
      const real = window.fetch.bind(window);
      window.fetch = async (...wanted) => {
        const response = await real(...wanted);
        if (!response.url.includes('/export?')) return response;
        const text = await response.text();
        const { signal } = wanted[1] ?? {};
        const body = new ReadableStream<Uint8Array>({
          start: (to) => {
            to.enqueue(new TextEncoder().encode(text.slice(0, text.length / 2)));
            signal?.addEventListener('abort', () => {
              Object.assign(window, { cancelled: true });
              to.error(signal.reason);
            });
          },
        });
        return new Response(body, response);
      };
    });
    await sheet().getByRole('button', { name: 'Export' }).click();
    await until(() => sheet().getByRole('status').textContent(), /^1,5\d\d of 3,000 rows, \d+ kB$/);
    await page.keyboard.press('Escape');
    const button = page.locator('footer').getByRole('button', { name: 'Export' });
    await until(() => button.textContent(), /^Export 5\d %$/);
    await button.click();
    await sheet().getByRole('button', { name: 'Cancel' }).click();
    await sheet().getByRole('button', { name: 'Export' }).waitFor();
    expect(await page.evaluate(() => (window as unknown as { cancelled: boolean }).cancelled)).toBe(
      true,
    );
    expect(await button.textContent()).toBe('Export');
  });

  it('is not saved where it is broken off, and what is refused is reported', async () => {
    const downloads: string[] = [];
    page.on('download', (one) => downloads.push(one.suggestedFilename()));
    await begun('/tables/doomed?sort=id&columns=id,n,wide');
    await sheet().getByRole('button', { name: 'Export' }).click();
    await until(
      () => sheet().getByRole('alert').textContent(),
      'The export was interrupted. Nothing was saved.',
    );
    await sheet().getByRole('button', { name: 'Export again' }).click();
    await page.route(/\/export\?/, (route) =>
      route.fulfill({
        status: 413,
        contentType: 'application/problem+json',
        body: JSON.stringify({
          status: 413,
          detail: 'An export has at most 10 rows; this one has 3000.',
        }),
      }),
    );
    await sheet().getByRole('button', { name: 'Export' }).click();
    await until(
      () => sheet().getByRole('alert').textContent(),
      'An export has at most 10 rows; this one has 3000.',
    );
    expect(downloads).toEqual([]);
  });
});
