import type { Locator } from 'playwright-core';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { frames, holdCount } from '../../../../examples/fixtures.ts';
import { until } from '../../../core/src/testing/until.ts';
import { ownPages } from '../testing/own-pages.ts';
import { tableTests } from '../testing/table-tests.ts';

const { passages } = testDatabases();
const all = passages.toLocaleString('en');
const at = tableTests('selection', ownPages);

/** The requests that reached the API. */
let requests: URL[];

beforeEach(() => {
  requests = [];
  at.page.on('request', (request) => {
    if (request.url().includes('/api/')) requests.push(new URL(request.url()));
  });
});

afterEach(() => expect(at.complaints).toEqual([]));

const open = async (name: string): Promise<void> => {
  await at.open(name);
  await at.page.locator('.eph-row [role=checkbox]').first().waitFor();
};
const says = (text: string | RegExp): Promise<void> =>
  at.page.getByTestId('selection').filter({ hasText: text }).waitFor();
const box = (row: number): Locator =>
  at.page.locator(`.eph-row[aria-rowindex="${row + 1}"] [role=checkbox]`);
const scrollTo = async (row: number): Promise<void> => {
  await at.page.getByRole('grid').evaluate((grid, top) => grid.scrollTo(0, top), 34 * (row - 5));
  await box(row).waitFor();
  await at.page.locator(`.eph-row[aria-rowindex="${row + 1}"][aria-busy=false]`).waitFor();
};
const ticked = (): Promise<string[]> =>
  at.page
    .locator('.eph-row[aria-selected=true]')
    .evaluateAll((rows) => rows.map((row) => row.getAttribute('aria-rowindex') ?? ''));
const counted = (): Promise<void> =>
  at.page
    .locator('.eph-view [role=status]')
    .filter({ hasText: `of ${all}` })
    .waitFor();

describe('selected rows', () => {
  it('are a range over rows that were never loaded, requested once and by their keys alone', async () => {
    await open('chosen');
    await counted();
    await box(3).click();
    await says('1 row of Passages selected');
    await scrollTo(702);
    requests.length = 0;
    await box(702).click({ modifiers: ['Shift'] });
    await says('700 rows of Passages selected');
    const ranged = requests.filter(({ searchParams }) => searchParams.get('columns') === 'id');
    expect(ranged.map(({ searchParams }) => searchParams.get('limit'))).toEqual(['700']);
    expect((await ticked()).includes('703')).toBe(true);
    await scrollTo(300);
    expect(await at.page.locator('.eph-row[aria-selected=false]').count()).toBe(0);
    // The same by keys: Space, and Shift with it at another row.
    await at.page.getByRole('button', { name: 'Clear selection' }).click();
    await box(300).click();
    await at.page.getByRole('grid').focus();
    for (const key of ['ArrowDown', 'ArrowDown', 'Shift+Space']) await at.page.keyboard.press(key);
    await says('3 rows of Passages selected');
  });

  it('are chosen by a click during which the table becomes lower', async () => {
    await open('chosen');
    await counted();
    await scrollTo(705);
    await at.page.locator('[role=grid][aria-busy=false]').waitFor();
    await box(705).hover();
    await at.page.mouse.down();
    await at.page.setViewportSize({ width: 1280, height: 640 });
    await frames(at.page, 3);
    await at.page.mouse.up();
    await says('1 row of Passages selected');
    expect(await ticked()).toEqual(['706']);
  });

  it('are no range from a row that lies elsewhere by now', async () => {
    await open('chosen');
    await counted();
    await box(2).click();
    await at.page.getByRole('columnheader', { name: 'Toll' }).getByText('Toll').click();
    await at.page.locator('[aria-sort=ascending]').waitFor();
    await at.page.locator('[role=grid][aria-busy=false]').waitFor();
    await box(9).click({ modifiers: ['Shift'] });
    await says('2 rows of Passages selected');
  });

  it('are a range of any length as a condition, requested once, with those selected before', async () => {
    await open('chosen');
    await counted();
    await box(2).click();
    await box(4).click();
    await scrollTo(5_000);
    requests.length = 0;
    await box(5_000).click({ modifiers: ['Shift'] });
    // From the fourth to the five thousandth, and the second.
    await says('4,998 rows of Passages selected');
    const ends = requests.filter(({ searchParams }) => searchParams.get('limit') === '2');
    expect(ends.map(({ searchParams }) => searchParams.get('filter'))).toEqual([
      "SELECTED('4', '5000')",
    ]);
    await scrollTo(3_000);
    await until(
      () => box(3_000).getAttribute('aria-checked'),
      (checked) => checked === 'true',
    );
    await at.page.getByRole('button', { name: 'Show only these' }).click();
    await at.page.locator('[role=status]').filter({ hasText: 'of 4,998' }).waitFor();
    await at.page.getByRole('grid').evaluate((grid) => grid.scrollTo(0, 0));
    const first = at.page.locator(
      '.eph-row[aria-rowindex="2"][aria-busy=false] [aria-colindex="2"]',
    );
    await until(
      () => first.innerText(),
      (id) => id === '2',
    );
  }, 120_000);

  it('are about so many until they are counted, where that takes long', async () => {
    await open('chosen');
    await counted();
    await box(2).click();
    await scrollTo(5_000);
    const go = await holdCount(at.page, 5_012);
    await box(5_000).click({ modifiers: ['Shift'] });
    await says('about 5,012 rows of Passages selected');
    go();
    await says(/^4,999 rows of Passages selected/);
  }, 120_000);

  it('are stored by the service where they are too many for one question', async () => {
    await open('chosen');
    await counted();
    await box(1).click();
    await scrollTo(900);
    await box(900).click({ modifiers: ['Shift'] });
    await says('900 rows of Passages selected');
    await scrollTo(2_000);
    await box(2_000).click();
    await scrollTo(2_900);
    await box(2_900).click({ modifiers: ['Shift'] });
    await says('1,801 rows of Passages selected');
    await at.page.getByRole('button', { name: 'Stamp' }).click();
    await until(at.logged, (log) => log.includes('keys 1801 1'));
    await at.page.evaluate('window.go()');
    await at.page.reload();
    await open('chosen');
    await counted();
    await box(1).click();
    await scrollTo(1_000);
    await box(1_000).click({ modifiers: ['Shift'] });
    await box(1_001).click();
    await says('1,001 rows of Passages selected');
    await at.page.getByRole('button', { name: 'Show only these' }).click();
    await at.page.waitForURL(/filter=SELECTED.*stored/);
    await at.page.locator('[role=status]').filter({ hasText: 'of 1,001' }).waitFor();
  }, 120_000);

  it('are those of a group by its box, which is empty, full or partly full', async () => {
    await at.open('chosen', '?group=status');
    const group = (name: string): Locator =>
      at.page.locator('.eph-group:not([aria-hidden=true])', { hasText: name });
    const state = (name: string): Promise<string | null> =>
      group(name).getByRole('checkbox').getAttribute('aria-checked');
    const becomes = (name: string, wanted: string): Promise<unknown> =>
      until(
        () => state(name),
        (now) => now === wanted,
      );
    const countOf = (name: string): Promise<string> =>
      group(name).locator('.eph-count').innerText();
    await group('disputed').getByRole('checkbox').waitFor();
    const disputed = await countOf('disputed');
    await group('disputed').getByRole('checkbox').click();
    await says(`${disputed} rows of Passages selected`);
    await becomes('disputed', 'true');
    await becomes('waived', 'false');
    // One row of another group, next to them: as a condition all of it.
    await group('waived').locator('.eph-mark').click();
    const row = at.page.locator('.eph-row[aria-level="2"][aria-busy=false]').first();
    await row.getByRole('checkbox').waitFor();
    await group('waived').getByRole('checkbox').click();
    await becomes('waived', 'true');
    await until(
      () => row.getByRole('checkbox').getAttribute('aria-checked'),
      (now) => now === 'true',
    );
    await row.getByRole('checkbox').click();
    await becomes('waived', 'mixed');
    await group('waived').getByRole('checkbox').click();
    await becomes('waived', 'true');
    for (const name of ['waived', 'disputed']) {
      await group(name).getByRole('checkbox').click();
      await becomes(name, 'false');
    }
    await at.page
      .getByTestId('selection')
      .filter({ hasText: /^0 rows/ })
      .waitFor();
    await at.page.getByRole('button', { name: 'Clear selection' }).click();
    // Of all that match but one the group of that one is partly full.
    await at.page.goto(at.served.url + '/#chosen');
    await open('chosen');
    await counted();
    await box(2).click();
    await at.page.getByRole('button', { name: `Select all ${all}`, exact: true }).click();
    await box(2).click();
    await at.page.getByRole('button', { name: '+ Group' }).click();
    const sheet = at.page.getByRole('dialog');
    await sheet.getByRole('button', { name: 'Direction', exact: true }).click();
    await sheet.getByRole('button', { name: /value/ }).first().click();
    await until(
      async () => [await state('up'), await state('down')].toSorted().join(),
      (now) => now === 'mixed,true',
    );
  }, 120_000);

  it('are whole groups and a single row of another one, counted as rows also when shown alone', async () => {
    await at.open('chosen', '?group=status');
    const group = (name: string): Locator =>
      at.page.locator('.eph-group:not([aria-hidden=true])', { hasText: name });
    await group('disputed').getByRole('checkbox').waitFor();
    const disputed = await group('disputed').locator('.eph-count').innerText();
    await group('disputed').getByRole('checkbox').click();
    await says(`${disputed} rows of Passages selected`);
    await group('waived').locator('.eph-mark').click();
    const row = at.page.locator('.eph-row[aria-level="2"][aria-busy=false]').first();
    await row.getByRole('checkbox').click();
    const more = (Number(disputed.replaceAll(',', '')) + 1).toLocaleString('en');
    await says(`${more} rows of Passages selected`);
    await until(
      () => row.getByRole('checkbox').getAttribute('aria-checked'),
      (now) => now === 'true',
    );
    await at.page.getByRole('button', { name: 'Show only these' }).click();
    await at.page.waitForURL(/filter=/);
    await says(`${more} rows of Passages selected`);
  }, 120_000);

  it('are not combined where a search found them, and say so', async () => {
    await at.open('chosen', '?search=heron');
    await box(1).waitFor();
    await box(1).click();
    const everything = at.page.getByRole('button', { name: /^Select all/ });
    await everything.click();
    await everything.waitFor({ state: 'detached' });
    const before = await at.page.getByTestId('selection').innerText();
    await at.page.getByRole('searchbox', { name: 'Search' }).fill('');
    await at.page.keyboard.press('Enter');
    await counted();
    const other = at.page.locator('.eph-row[aria-selected=false][aria-busy=false]').first();
    await other.getByRole('checkbox').click();
    await at.page
      .getByRole('alert')
      .filter({ hasText: 'Rows of a search cannot be combined with other rows.' })
      .waitFor();
    expect(await at.page.getByTestId('selection').innerText()).toContain(
      before.split(' selected')[0],
    );
    await at.page.getByRole('button', { name: 'Clear selection' }).click();
    await other.getByRole('checkbox').click();
    await says('1 row of Passages selected');
  });

  it('are all that match, at once, but some', async () => {
    await open('chosen');
    await counted();
    await at.page.locator('[role=grid][aria-busy=false]').waitFor();
    await box(2).click();
    requests.length = 0;
    await at.page.getByRole('button', { name: `Select all ${all}`, exact: true }).click();
    await says(`${all} rows of Passages selected`);
    for (const row of [4, 5, 6]) await box(row).click();
    await says(`${(passages - 3).toLocaleString('en')} rows of Passages selected`);
    // Stored as a condition: no rows are requested.
    expect(requests.filter(({ pathname }) => pathname.endsWith('/rows'))).toEqual([]);
    const shown = await ticked();
    expect(shown).not.toEqual(expect.arrayContaining(['5']));
    expect(shown).toEqual(expect.arrayContaining(['4', '8', '9']));
    await scrollTo(9_000);
    expect(await at.page.locator('.eph-row[aria-selected=false]').count()).toBe(0);
    // Under another condition the service knows which of them are chosen.
    await at.page.getByRole('textbox', { name: 'Filter' }).fill('id < 8');
    await at.page.keyboard.press('Enter');
    await at.page.locator('[role=status]').filter({ hasText: 'of 7' }).waitFor();
    await until(ticked, (rows) => rows.join() === '2,3,4,8');
    await says(`${(passages - 3).toLocaleString('en')} rows of Passages selected`);
    // Seen alone, and dropped.
    await at.page.getByRole('button', { name: 'Show only these' }).click();
    await at.page
      .locator('[role=status]')
      .filter({ hasText: `of ${(passages - 3).toLocaleString('en')}` })
      .waitFor();
    await at.page.waitForURL(/filter=NOT\+SELECTED/);
    await at.page.getByRole('button', { name: 'Clear selection' }).click();
    expect(await ticked()).toEqual([]);
  });

  it('are shown next to, and stored as long as the window is open', async () => {
    await open('beside');
    await counted();
    const chosen = at.page.getByRole('grid', { name: 'Chosen' });
    const ids = (): Promise<string[]> =>
      chosen.locator('.eph-row[aria-busy=false] > [aria-colindex="1"]').allInnerTexts();
    const shows = (wanted: string): Promise<unknown> =>
      until(
        async () => (await ids()).toSorted().join(),
        (now) => now === wanted,
      );
    await shows('');
    for (const row of [2, 4, 5]) await box(row).first().click();
    await shows('2,4,5');
    await at.page.reload();
    await says('3 rows of Passages selected');
    await shows('2,4,5');
    await box(4).first().click();
    await shows('2,5');
    // All that match but one, likewise.
    await counted();
    await at.page.getByRole('button', { name: `Select all ${all}`, exact: true }).click();
    await box(2).first().click();
    await at.page.reload();
    await says(`${(passages - 1).toLocaleString('en')} rows of Passages selected`);
    const status = at.page.locator('.eph-view [role=status]').nth(1);
    await status.filter({ hasText: `of ${(passages - 1).toLocaleString('en')}` }).waitFor();
    // What cannot be read any more is no selection.
    await at.page.evaluate("sessionStorage.setItem('ephoros.selection.passages', '{')");
    await at.page.reload();
    await counted();
    expect(await at.page.getByTestId('selection').count()).toBe(0);
  }, 120_000);

  it('stay the same wherever they lie, and are visible alone by their keys', async () => {
    await open('chosen');
    await counted();
    for (const row of [2, 4]) await box(row).click();
    await at.page.getByRole('columnheader', { name: 'Toll' }).getByText('Toll').click();
    await at.page.locator('[aria-sort=ascending]').waitFor();
    await says('2 rows of Passages selected');
    await at.page.getByRole('button', { name: 'Show only these' }).click();
    await at.page.locator('[role=status]').filter({ hasText: 'of 2' }).waitFor();
    await at.page
      .getByTestId('sentence')
      .filter({ hasText: 'it is one of 2 selected rows' })
      .waitFor();
    expect(await at.page.locator('.eph-row[aria-selected=true]').count()).toBe(2);
    const ids = await at.page.locator('.eph-row > [aria-colindex="2"]').allTextContents();
    expect(ids.sort()).toEqual(['2', '4']);
    // The address shows the same to others.
    await at.page.reload();
    await at.page.locator('[role=status]').filter({ hasText: 'of 2' }).waitFor();
  });

  it('are the same however often they are stated', async () => {
    await open('anew');
    await at.page
      .getByTestId('selection')
      .filter({ hasText: 'rows of Passages selected' })
      .waitFor();
    await frames(at.page, 40);
    // Counted once, and once requested which rows of the window are among them.
    const about = requests.filter(({ searchParams }) =>
      searchParams.get('filter')?.includes('toll > 100'),
    );
    expect(about.length).toBeLessThan(5);
  });

  it('are reported where they no longer exist', async () => {
    await open('given');
    await says('3 rows of Passages selected');
    await at.page.getByRole('button', { name: 'Show only these' }).click();
    await at.page.getByRole('alert').filter({ hasText: '1 of them no longer exists' }).waitFor();
  });

  it('are summed as all rows are', async () => {
    await open('summed');
    for (const row of [2, 4]) await box(row).click();
    const filter = encodeURIComponent("SELECTED('2', '4')");
    const sums = await at.page.request.get(
      `${at.served.url}/api/tables/passages/aggregates?aggregate=sum(toll)&filter=${filter}`,
    );
    const { values } = (await sums.json()) as { values: Record<string, string> };
    await says(`Sum of toll ${values['sum(toll)'] ?? ''}`);
  });

  it('are passed to what the page does with them, which says how far it is and what goes wrong', async () => {
    await open('chosen');
    await counted();
    for (const row of [2, 4]) await box(row).click();
    await at.page.getByRole('button', { name: 'Burn' }).click();
    await at.page.getByRole('alert').filter({ hasText: 'Burn: the stove is cold' }).waitFor();
    await at.page.getByRole('button', { name: 'Stamp' }).click();
    for (const done of [1, 2, 3]) {
      await at.page.getByRole('button', { name: `Stamp ${done} of 3`, disabled: true }).waitFor();
      await at.page.evaluate('window.go()');
    }
    await at.page.getByTestId('selection').waitFor({ state: 'detached' });
    const log = await at.page.evaluate<string[]>('window.log');
    expect(log).toEqual(['1 keys', '2 keys', 'keys 2 1', '0 keys']);
  });

  it('is one at most where one is meant', async () => {
    await at.open('single');
    await at.page.locator('[role=status]').filter({ hasText: 'of 64' }).waitFor();
    const radio = (row: number): Locator =>
      at.page.locator(`.eph-row[aria-rowindex="${row + 1}"]`).getByRole('radio');
    await radio(2).click();
    await radio(5).click({ modifiers: ['Shift'] });
    expect(await ticked()).toEqual(['6']);
    await says('1 row of Locks selected');
    expect(await at.page.getByLabel('Select visible rows').count()).toBe(0);
    expect(await at.page.getByRole('button', { name: /^all / }).count()).toBe(0);
    expect(await radio(5).getAttribute('aria-checked')).toBe('true');
    await radio(5).click();
    await at.page.getByTestId('selection').waitFor({ state: 'detached' });
  });
});
