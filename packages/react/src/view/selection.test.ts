import type { Browser, Locator, Page, Request } from 'playwright-core';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { launch, pageIn } from '../../../../examples/fixtures.ts';
import { servePage, type ServedPage } from '../testing/built-page.ts';
import { ownPages } from '../testing/own-pages.ts';

const { lowmere, passages } = testDatabases();
const all = passages.toLocaleString('en');

let served: ServedPage;
let browser: Browser;
let page: Page;
let complaints: string[];
let asked: URL[];

beforeAll(async () => {
  [served, browser] = await Promise.all([servePage('selection', ownPages, lowmere), launch()]);
}, 60_000);

afterAll(async () => {
  await browser.close();
  await served.close();
});

beforeEach(async () => {
  ({ page, complaints } = await pageIn(browser));
  page.setDefaultTimeout(15_000);
  asked = [];
  page.on('request', (request: Request) => {
    if (request.url().includes('/api/')) asked.push(new URL(request.url()));
  });
});

afterEach(async () => {
  expect(complaints).toEqual([]);
  await page.context().close();
});

const open = async (name: string, search = ''): Promise<void> => {
  await page.goto(`${served.url}/${search}#${name}`);
  await page.locator('.eph-row [role=checkbox]').first().waitFor();
};
const says = (text: string): Promise<void> =>
  page.getByTestId('selection').filter({ hasText: text }).waitFor();
const box = (row: number): Locator =>
  page.locator(`.eph-row[aria-rowindex="${row + 1}"] [role=checkbox]`);
const scrollTo = async (row: number): Promise<void> => {
  await page.getByRole('grid').evaluate((grid, top) => grid.scrollTo(0, top), 34 * (row - 5));
  await box(row).waitFor();
  await page.locator(`.eph-row[aria-rowindex="${row + 1}"][aria-busy=false]`).waitFor();
};
const ticked = (): Promise<string[]> =>
  page
    .locator('.eph-row[aria-selected=true]')
    .evaluateAll((rows) => rows.map((row) => row.getAttribute('aria-rowindex') ?? ''));
const counted = (): Promise<void> =>
  page
    .locator('.eph-view [role=status]')
    .filter({ hasText: `of ${all}` })
    .waitFor();

describe('selected rows', () => {
  it('are a range over rows that were never loaded, asked for once and by their keys alone', async () => {
    await open('chosen');
    await counted();
    await box(3).click();
    await says('1 row of Passages selected');
    await scrollTo(702);
    asked.length = 0;
    await box(702).click({ modifiers: ['Shift'] });
    await says('700 rows of Passages selected');
    const ranged = asked.filter(({ searchParams }) => searchParams.get('columns') === 'id');
    expect(ranged.map(({ searchParams }) => searchParams.get('limit'))).toEqual(['700']);
    expect((await ticked()).includes('703')).toBe(true);
    await scrollTo(300);
    expect(await page.locator('.eph-row[aria-selected=false]').count()).toBe(0);
    // The same by keys: Space, and Shift with it at another row.
    await page.getByRole('button', { name: 'Select none' }).click();
    await box(300).click();
    await page.getByRole('grid').focus();
    for (const key of ['ArrowDown', 'ArrowDown', 'Shift+Space']) await page.keyboard.press(key);
    await says('3 rows of Passages selected');
  });

  it('are no range from a row that lies elsewhere by now', async () => {
    await open('chosen');
    await counted();
    await box(2).click();
    await page.getByRole('columnheader', { name: 'Toll' }).getByText('Toll').click();
    await page.locator('[aria-sort=ascending]').waitFor();
    await page.locator('[role=grid][aria-busy=false]').waitFor();
    await box(9).click({ modifiers: ['Shift'] });
    await says('2 rows of Passages selected');
  });

  it('are no range where that is longer than one question, and that is said', async () => {
    await open('chosen');
    await counted();
    await box(1).click();
    await scrollTo(5_000);
    await box(5_000).click({ modifiers: ['Shift'] });
    await page.getByRole('alert').filter({ hasText: 'At most 1,000 rows one by one' }).waitFor();
    await says('1 row of Passages selected');
  });

  it('are all that match, at once, but some', async () => {
    await open('chosen');
    await counted();
    await page.locator('[role=grid][aria-busy=false]').waitFor();
    await box(2).click();
    asked.length = 0;
    await page.getByRole('button', { name: `all ${all}`, exact: true }).click();
    await says(`${all} rows of Passages selected`);
    for (const row of [4, 5, 6]) await box(row).click();
    await says(`${(passages - 3).toLocaleString('en')} rows of Passages selected`);
    // Kept as a condition: nobody is asked.
    expect(asked).toEqual([]);
    const shown = await ticked();
    expect(shown).not.toEqual(expect.arrayContaining(['5']));
    expect(shown).toEqual(expect.arrayContaining(['4', '8', '9']));
    await scrollTo(9_000);
    expect(await page.locator('.eph-row[aria-selected=false]').count()).toBe(0);
    // Under another condition the service knows which of them are chosen.
    await page.getByRole('textbox', { name: 'where' }).fill('id < 8');
    await page.keyboard.press('Enter');
    await page.locator('[role=status]').filter({ hasText: 'of 7' }).waitFor();
    await until(ticked, (rows) => rows.join() === '2,3,4,8');
    await says(`${(passages - 3).toLocaleString('en')} rows of Passages selected`);
    // Seen alone, and dropped.
    await page.getByRole('button', { name: 'only these' }).click();
    await page
      .locator('[role=status]')
      .filter({ hasText: `of ${(passages - 3).toLocaleString('en')}` })
      .waitFor();
    await page.waitForURL(/filter=NOT\+SELECTED/);
    await page.getByRole('button', { name: 'Select none' }).click();
    expect(await ticked()).toEqual([]);
  });

  it('stay the same wherever they lie, and are seen alone by their keys', async () => {
    await open('chosen');
    await counted();
    for (const row of [2, 4]) await box(row).click();
    await page.getByRole('columnheader', { name: 'Toll' }).getByText('Toll').click();
    await page.locator('[aria-sort=ascending]').waitFor();
    await says('2 rows of Passages selected');
    await page.getByRole('button', { name: 'only these' }).click();
    await page.locator('[role=status]').filter({ hasText: 'of 2' }).waitFor();
    await page
      .getByTestId('sentence')
      .filter({ hasText: 'it is one of 2 selected rows' })
      .waitFor();
    expect(await page.locator('.eph-row[aria-selected=true]').count()).toBe(2);
    const ids = await page.locator('.eph-row > [aria-colindex="2"]').allTextContents();
    expect(ids.sort()).toEqual(['2', '4']);
    // The address shows the same to others.
    await page.reload();
    await page.locator('[role=status]').filter({ hasText: 'of 2' }).waitFor();
  });

  it('are summed as all rows are', async () => {
    await open('summed');
    for (const row of [2, 4]) await box(row).click();
    const filter = encodeURIComponent("SELECTED('2', '4')");
    const sums = await page.request.get(
      `${served.url}/api/tables/passages/aggregates?aggregate=sum(toll)&filter=${filter}`,
    );
    const { values } = (await sums.json()) as { values: Record<string, string> };
    await says(`Sum of toll ${values['sum(toll)'] ?? ''}`);
  });

  it('are handed to what the page does with them, which says how far it is and what goes wrong', async () => {
    await open('chosen');
    await counted();
    for (const row of [2, 4]) await box(row).click();
    await page.getByRole('button', { name: 'Burn' }).click();
    await page.getByRole('alert').filter({ hasText: 'Burn: the stove is cold' }).waitFor();
    await page.getByRole('button', { name: 'Stamp' }).click();
    for (const done of [1, 2, 3]) {
      await page.getByRole('button', { name: `Stamp ${done} of 3`, disabled: true }).waitFor();
      await page.evaluate('window.go()');
    }
    await page.getByTestId('selection').waitFor({ state: 'detached' });
    const log = await page.evaluate<string[]>('window.log');
    expect(log).toEqual(['1 keys', '2 keys', 'keys 2 1', '0 keys']);
  });

  it('is one at most where one is meant', async () => {
    await open('single');
    await page.locator('[role=status]').filter({ hasText: 'of 64' }).waitFor();
    await box(2).click();
    await box(5).click({ modifiers: ['Shift'] });
    expect(await ticked()).toEqual(['6']);
    await says('1 row of Locks selected');
    expect(await page.getByLabel('Select the rows shown').count()).toBe(0);
    expect(await page.getByRole('button', { name: /^all / }).count()).toBe(0);
    await box(5).click();
    await page.getByTestId('selection').waitFor({ state: 'detached' });
  });
});
