import type { Locator } from 'playwright-core';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { cardPages } from '../testing/card-pages.ts';
import { tableTests } from '../testing/table-tests.ts';

const { passages } = testDatabases();
const at = tableTests('across', cardPages);

afterEach(() => expect(at.complaints).toEqual([]));

const field = (label: string): Locator =>
  at.page.locator('.eph-across-row').filter({
    has: at.page.locator('[role=rowheader]', { hasText: new RegExp(`^${label}`) }),
  });
const cell = (label: string, row: number): Locator =>
  field(label).locator(`[role=gridcell][aria-colindex="${row + 1}"][aria-busy=false]`);
const values = async (label: string): Promise<string[]> =>
  field(label).locator('[role=gridcell][aria-busy=false]').allInnerTexts();

describe('a table lying on its side', () => {
  it('has its columns down the page in sections that fold, and its rows side by side', async () => {
    await at.open('rows', '?layout=across&sort=id');
    await cell('Id', 1).waitFor();
    expect((await values('Id')).slice(0, 3)).toEqual(['1', '2', '3']);
    const section = at.page.getByRole('button', { name: 'Amounts' });
    expect(await section.getAttribute('aria-expanded')).toBe('true');
    await section.click();
    await field('Toll').waitFor({ state: 'detached' });
    await section.click();
    await field('Toll').waitFor();
    // Whatever the rows refer to by its name.
    expect(await cell('Lock', 1).innerText()).toMatch(/[A-Z]/);
  });

  it('is loaded as it is scrolled sideways, and gone to by number', async () => {
    await at.open('rows', '?layout=across&sort=id');
    await at.says(`of ${passages.toLocaleString('en')}`);
    await at.page.locator('.eph-across').evaluate((grid) => grid.scrollTo(230 * 4_000, 0));
    await cell('Id', 4_001).waitFor();
    expect(await cell('Id', 4_001).innerText()).toBe('4001');
    expect(await at.page.locator('.eph-across-head [role=columnheader]').count()).toBeLessThan(20);
    await at.page.waitForURL(/offset=4000/);
    await at.page.reload();
    await cell('Id', 4_001).waitFor();
    await at.page.getByLabel('Go to row').fill('90');
    await at.page.keyboard.press('Enter');
    await cell('Id', 90).waitFor();
  });

  it('is sorted by its labels, filtered and paged as ever', async () => {
    await at.open('rows', '?layout=across&reading=pages&limit=5');
    await cell('Id', 1).waitFor();
    await field('Toll').getByRole('button', { name: /^Toll/ }).first().click();
    await at.page.waitForURL(/sort=toll/);
    expect(await field('Toll').locator('[role=rowheader]').getAttribute('aria-sort')).toBe(
      'ascending',
    );
    await until(
      () => values('Toll'),
      (tolls) =>
        tolls.length === 5 &&
        tolls.every((toll) => toll === tolls.toSorted()[0] || toll >= (tolls[0] ?? '')),
    );
    await at.page.getByRole('button', { name: 'Next' }).click();
    await cell('Id', 1).waitFor();
    await at.says('Rows 6–10');
  });

  it('marks in what the rows differ, and shows that alone', async () => {
    await at.open(
      'rows',
      '?layout=across&filter=SELECTED(%271%27,%272%27)&columns=id,direction,note',
    );
    await cell('Id', 2).waitFor();
    const directions = await values('Direction');
    const same = new Set(directions).size === 1;
    expect(await field('Direction').getAttribute('data-differs')).toBe(String(!same));
    expect(await field('Id').getAttribute('data-differs')).toBe('true');
    await at.page.getByLabel('Only differences').check();
    if (same) await field('Direction').waitFor({ state: 'detached' });
    expect(await field('Id').count()).toBe(1);
  });

  it('is walked by keys: rows are selected and opened there', async () => {
    await at.open('rows', '?layout=across&sort=id');
    await cell('Id', 1).waitFor();
    await at.page.getByRole('grid').focus();
    for (const key of ['ArrowRight', 'ArrowRight', 'ArrowDown', ' '])
      await at.page.keyboard.press(key);
    await at.page.getByTestId('selection').filter({ hasText: '1 row' }).waitFor();
    const box = at.page.locator('.eph-across-head [aria-colindex="3"] [role=checkbox]');
    expect(await box.getAttribute('aria-checked')).toBe('true');
    await at.page.keyboard.press('Enter');
    const card = at.page.locator('.eph-card');
    await card.getByRole('heading', { level: 2, name: '2', exact: true }).waitFor();
    await at.page.keyboard.press('Escape');
    await card.waitFor({ state: 'detached' });
    expect(await at.page.getByRole('grid').evaluate((one) => one === document.activeElement)).toBe(
      true,
    );
  });

  it('has the ranges, the menus and the copies of the other way round', async () => {
    await at.page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
    await at.open('rows', '?layout=across&sort=id');
    await cell('Id', 4).waitFor();
    const box = (row: number): Locator =>
      at.page.locator(`.eph-across-head [aria-colindex="${row + 1}"] [role=checkbox]`);
    await box(2).click();
    await box(4).click({ modifiers: ['Shift'] });
    await at.page.getByTestId('selection').filter({ hasText: '3 rows' }).waitFor();
    const menu = at.page.getByRole('menu');
    await cell('Id', 3).click({ button: 'right' });
    await menu.getByRole('menuitemcheckbox', { name: 'With headers' }).click();
    await menu.getByRole('menuitem', { name: 'Copy cell' }).click();
    const status = at.page.locator('.eph-copied', { hasText: '1 row copied' });
    await status.waitFor();
    const clipboard = (): Promise<string> => at.page.evaluate('navigator.clipboard.readText()');
    expect(await clipboard()).toBe('Id\n3');
    await status.waitFor({ state: 'detached' });
    await at.page.getByRole('grid').focus();
    await at.page.keyboard.press('ArrowLeft');
    await at.page.keyboard.press('Control+c');
    await status.waitFor();
    expect(await clipboard()).toBe('2');
    // A column's menu lies on its label.
    await field('Toll').locator('[role=rowheader]').click({ button: 'right' });
    await menu.getByRole('menuitem', { name: 'Sort highest first' }).click();
    await at.page.waitForURL(/sort=-toll/);
    await cell('Toll', 1).click({ button: 'right' });
    await menu.getByRole('menuitem', { name: /^Filter: Toll ≤/ }).click();
    await at.page.waitForURL(/filter=toll/);
  }, 120_000);

  it('is chosen in the sheet of the look', async () => {
    await at.open('rows', '?sort=id');
    await at.says(`of ${passages.toLocaleString('en')}`);
    await at.page.getByRole('button', { name: 'Appearance' }).click();
    await at.page.getByRole('radio', { name: 'One column per record' }).click();
    await at.page.waitForURL(/layout=across/);
    await cell('Id', 1).waitFor();
  });
});
