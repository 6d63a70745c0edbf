import { violations } from '../../../examples/fixtures.ts';
import { perform } from '../../../demo/src/testing/databases.ts';
import { recordedService, type RecordedService } from '../../service/src/testing/recorded.ts';
import {
  consoleFolder,
  consoleOver,
  open,
  page,
  sentence,
  service,
  until,
} from './testing/fixtures.ts';

let harbour: RecordedService;

consoleOver(async () => {
  harbour = await recordedService(
    'console_views',
    [
      'create table berths (id int primary key, fee numeric, state text, gone int)',
      "insert into berths select n, n, case when n % 3 = 0 then 'free' else 'taken' end, n from generate_series(1, 30) n",
      'create table quays (id int primary key, name text)',
    ],
    { consoleFolder },
  );
  return { ...harbour.service, close: harbour.close };
});

const line = (): ReturnType<typeof page.locator> => page.getByTestId('saved-views-line');
const button = (name: string | RegExp): ReturnType<typeof page.locator> =>
  page.getByRole('button', { name, exact: true });
const dialog = (): ReturnType<typeof page.locator> => page.getByRole('dialog');
const lineSays = (expected: RegExp): Promise<void> => until(() => line().innerText(), expected);
const sorted = (label: string): Promise<void> =>
  page.locator('.eph-head-label', { hasText: new RegExp(`^${label}`, 'i') }).click();

/** Keeps what is shown under a name. */
async function keep(name: string, ...ticks: string[]): Promise<void> {
  await line().getByRole('button').first().click();
  await button('Save view as …').click();
  await dialog().getByLabel('Name').fill(name);
  for (const tick of ticks) await dialog().getByText(tick).click();
  await dialog().getByRole('button', { name: 'Save', exact: true }).click();
  await lineSays(new RegExp(`^${name}\\s+Saved`));
}

it('keeps what is shown, shows what was changed since, saves that or goes back', async () => {
  await open('/tables/berths?filter=fee>20&sort=-fee');
  await keep('Dear');
  expect(new URL(page.url()).searchParams.get('view')).toMatch(/^[\w-]{16}$/);
  await sorted('id');
  await lineSays(/^Dear\s+Modified\s+Save\s+Revert$/);
  await button('Revert').click();
  await lineSays(/^Dear\s+Saved$/);
  expect(await sentence().innerText()).toContain('fee is above 20');
  await sorted('id');
  await button('Save').click();
  await lineSays(/^Dear\s+Saved$/);
  // Where one is in it, is no change of it.
  await page.reload();
  await lineSays(/^Dear\s+Saved$/);
  const { pathname, searchParams } = new URL(page.url());
  expect([pathname, searchParams.get('sort')]).toEqual(['/tables/berths', 'id']);
  // Its own address leads there.
  await open(`/views/${searchParams.get('view') ?? ''}`);
  await lineSays(/^Dear\s+Saved$/);
  await page.goBack();
  await page.goForward();
  await lineSays(/^Dear\s+Saved$/);
});

it('is opened from the list, renamed, shared, and dropped when one is sure', async () => {
  await open('/tables/berths?filter=state%3D%27free%27');
  await keep('Free');
  await open('/tables/berths?sort=-id');
  await button('Views').click();
  expect(['the list', await violations(page, `'[role=dialog]'`)]).toEqual(['the list', []]);
  await button('Free').click();
  await lineSays(/^Free\s+Saved$/);
  await until(() => sentence().innerText(), /state is “free”/);
  await button('Free').click();
  await button('Name, note and sharing of Free').click();
  expect(['the form', await violations(page, `'[role=dialog]'`)]).toEqual(['the form', []]);
  await dialog().getByLabel('Name').fill('Free ones');
  await dialog().getByLabel('Note').fill('for Mondays');
  await dialog().getByText('Shared').click();
  await dialog().getByRole('button', { name: 'Save', exact: true }).click();
  await lineSays(/^Free ones\s+Saved$/);
  await until(() => dialog().innerText(), /Free ones\s+Shared\s+…\s+for Mondays/);
  // Another view of this name there is already.
  await button('Save view as …').click();
  await dialog().getByLabel('Name').fill('FREE ONES');
  await page.keyboard.press('Enter');
  await until(() => dialog().getByRole('alert').innerText(), /with this name/);
  await button('Cancel').click();
  await button('Name, note and sharing of Free ones').click();
  await button('Delete').click();
  await button('Confirm deletion').click();
  await lineSays(/^Views$/);
  expect((await service.get('/api/views?search=free')).body.views).toEqual([]);
});

it('begins with the first view of its table, unless the address says otherwise', async () => {
  await open('/tables/berths?filter=fee<4');
  await keep('Cheap', 'Default view of this table');
  await open('/tables/berths');
  await lineSays(/^Cheap\s+Saved$/);
  await until(() => sentence().innerText(), /fee is below 4/);
  await open('/tables/berths?sort=-fee');
  await lineSays(/^Views$/);
  await open('/tables/berths');
  await button('Cheap').click();
  await button('Table without a view').click();
  await lineSays(/^Views$/);
  await until(() => sentence().innerText(), /^(?!.*below 4)/);
  await page.reload();
  await lineSays(/^Views$/);
  await open('/tables/quays');
  await lineSays(/^Views$/);
});

it('asks who was slower whose changes shall stand', async () => {
  await open('/tables/berths?filter=fee>9');
  await keep('Two');
  const id = new URL(page.url()).searchParams.get('view') ?? '';
  const others = async (filter: string): Promise<void> => {
    const { ok } = await fetch(`${service.url}/api/views/${id}`, {
      method: 'PATCH',
      headers: { 'Content-Type': 'application/json', 'If-Match': '*' },
      body: JSON.stringify({ view: { version: 1, filter } }),
    });
    expect(ok).toBe(true);
  };
  const remaining = async (): Promise<unknown> => (await service.get(`/api/views/${id}`)).body.view;
  await others('fee > 25');
  await sorted('fee');
  await button('Save').click();
  await lineSays(/Someone else changed this view\./);
  expect(await remaining()).toEqual({ version: 1, filter: 'fee > 25' });
  await button('Open their version').click();
  await lineSays(/^Two\s+Saved$/);
  await until(() => sentence().innerText(), /fee is above 25/);
  await sorted('fee');
  await others('fee > 26');
  await button('Save').click();
  await button('Overwrite').click();
  await lineSays(/^Two\s+Saved$/);
  expect(await remaining()).toEqual({ version: 1, filter: 'fee > 25', sort: 'fee' });
});

it('shows what of it the table no longer has, and where there is none any more', async () => {
  await open('/tables/berths?filter=gone>3+AND+fee>8&sort=gone');
  await keep('Once');
  const id = new URL(page.url()).searchParams.get('view') ?? '';
  await perform(harbour.url, ['alter table berths drop column gone']);
  await service.get('/api/tables/berths/rows?columns=gone');
  await open(`/views/${id}`);
  await lineSays(/^Once\s+Saved\s+2 parts of this view are not applied: .* Unknown column gone/);
  await until(() => sentence().innerText(), /fee is above 8/);
  await open('/views/AAAAAAAAAAAAAAAA');
  await page.getByText('This saved view does not exist.').waitFor();
  await open('/tables/berths?view=AAAAAAAAAAAAAAAA&sort=fee');
  await lineSays(/This view no longer exists\./);
  await page.locator('.eph-row .eph-cell').first().waitFor();
});
