import { violations } from '../../../examples/fixtures.ts';
import { testDatabases } from '../../../demo/src/testing/databases.ts';
import { startService } from '../../service/src/testing/service.ts';
import { consoleFolder, consoleOver, open, page } from './testing/fixtures.ts';

describe('what everybody can use', () => {
  consoleOver(() =>
    startService(testDatabases().lowmere, 'tables: { passages: { sort: -passed_at } }', {
      consoleFolder,
    }),
  );

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
      await page.locator('.eph-row .eph-cell').nth(3).click({ button: 'right' });
      await page.getByRole('menu').waitFor();
      expect(['a menu', await violations(page, `'[role=menu]'`)]).toEqual(['a menu', []]);
      await page.keyboard.press('Escape');
      for (const button of [
        'Condition on Toll',
        '50 a page',
        '+ where',
        'Columns',
        'Keys and menus',
      ]) {
        await page.getByRole('button', { name: button }).click();
        await page.getByRole('dialog').waitFor();
        expect([button, await violations(page, `'[role=dialog]'`)]).toEqual([button, []]);
        await page.keyboard.press('Escape');
        await page.getByRole('dialog').waitFor({ state: 'detached' });
      }
    },
    120_000,
  );
});
