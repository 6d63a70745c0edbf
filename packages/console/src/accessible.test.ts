import { violations } from '../../../examples/fixtures.ts';
import { testDatabases } from '../../../demo/src/testing/databases.ts';
import { startService } from '../../service/src/testing/service.ts';
import { consoleFolder, consoleOver, loaded, open, page } from './testing/fixtures.ts';

describe('what everybody can use', () => {
  consoleOver(() =>
    startService(testDatabases().lowmere, 'tables: { passages: { sort: -passed_at } }', {
      consoleFolder,
    }),
  );

  const paint = JSON.stringify([
    ...['calm', 'note', 'good', 'warn', 'fault'].map((tone, digit) => ({
      when: `id % 5 = ${digit}`,
      tone,
      column: 'id',
    })),
    { scale: 'toll' },
  ]);
  const pages: readonly (readonly [name: string, path: string, there: string])[] = [
    ['the list of tables', '/', 'ol a'],
    ['a page of rows', '/tables/passages?columns=id,passed_at,toll,note', '.eph-row .eph-long'],
    ['one long scroll', '/tables/passages?columns=id,toll&reading=scroll', '.eph-ruler-mark'],
    [
      'an outline',
      '/tables/passages?columns=id,toll&group=status,direction&aggregate=sum(toll)&open=[["disputed"]]',
      '.eph-row[aria-level="2"]',
    ],
    ['a row on its card', '/tables/locks/rows/1', '.eph-card .eph-referring'],
    ['rows side by side', '/tables/locks?layout=across', '.eph-across-cell .eph-text'],
    ['a chart', '/tables/passages?columns=id,toll&chart=bars,status', '.eph-chart [data-mark]'],
    [
      'painted rows',
      `/tables/passages?columns=id,status,toll&paint=${paint}&row-style=striped,numbered,wrapped`,
      '.eph-cell[data-tone]',
    ],
    [
      'two tables',
      '/tables/locks?columns=id,name&second=canals',
      '.second-table .eph-row .eph-text',
    ],
    ['a mistake', '/tables/passages?filter=tol=3', '[data-testid=refused]'],
    ['nothing that matches', '/tables/passages?filter=id<0', '[data-testid=nothing-matches]'],
  ];

  it.each(['light', 'dark'] as const)(
    'is everything that is shown, in the %s',
    async (theme) => {
      await page.emulateMedia({ colorScheme: theme });
      // Few rows say as much as many, and are looked at sooner.
      await page.setViewportSize({ width: 1000, height: 400 });
      for (const [name, path, there] of pages) {
        await open(path);
        await page.locator(there).first().waitFor();
        expect([name, await violations(page)]).toEqual([name, []]);
      }
      await open('/tables/passages');
      await loaded();
      await page.locator('.eph-row .eph-cell').nth(3).click({ button: 'right' });
      await page.getByRole('menu').waitFor();
      expect(['a menu', await violations(page, `'[role=menu]'`)]).toEqual(['a menu', []]);
      await page.keyboard.press('Escape');
      for (const button of [
        'Filter Toll',
        '50 per page',
        '+ Filter',
        'Columns',
        'Filter builder',
        'Chart',
        'Appearance',
        'Keyboard shortcuts',
        'Preferences',
      ]) {
        await page.getByRole('button', { name: button, exact: true }).click();
        await page.getByRole('dialog').waitFor();
        expect([button, await violations(page, `'[role=dialog]'`)]).toEqual([button, []]);
        await page.keyboard.press('Escape');
        await page.getByRole('dialog').waitFor({ state: 'detached' });
      }
    },
    180_000,
  );

  it('is everything in the other language, and on a narrow screen', async () => {
    await open('/');
    await page.evaluate(() =>
      localStorage.setItem('ephoros.preferences', '{"language":"ar","theme":"dark"}'),
    );
    for (const [path, there] of [
      ['/', 'ol a'],
      ['/tables/passages?columns=id,passed_at,toll', '.eph-row .eph-number'],
      ['/tables/passages?filter=tol=3', '[data-testid=refused]'],
    ] as const) {
      await open(path);
      await page.locator(there).first().waitFor();
      expect([path, await violations(page)]).toEqual([path, []]);
    }
    expect(await page.getByTestId('refused').innerText()).toMatch(/[\u0600-\u06ff]/);
    await page.setViewportSize({ width: 390, height: 700 });
    await open('/tables/passages');
    await page.locator('.eph-table[data-cards] .eph-row').first().waitFor();
    expect(await violations(page)).toEqual([]);
  }, 60_000);
});
