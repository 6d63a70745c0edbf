import { violations } from '../../../examples/fixtures.ts';
import { testDatabases } from '../../../demo/src/testing/databases.ts';
import { startService } from '../../service/src/testing/service.ts';
import { consoleFolder, consoleOver, open, page, until } from './testing/fixtures.ts';

consoleOver(() => startService(testDatabases().lowmere, '', { consoleFolder, explain: true }));

const drawer = (): ReturnType<typeof page.locator> =>
  page.getByRole('region', { name: 'Requests' });
const button = (name: string): ReturnType<typeof page.locator> =>
  page.getByRole('button', { name, exact: true });
/** The lines of the drawer that ask for something, the newest first. */
const lines = (about: string): ReturnType<typeof page.locator> =>
  drawer()
    .locator('tbody tr')
    .filter({ has: page.getByRole('button', { name: about, exact: true }) });
const count = async (about: string): Promise<string> => String(await lines(about).count());

beforeEach(async () => {
  await open("/tables/passages?columns=id,toll&filter=status='disputed'&limit=25");
  await button('Requests').click();
  await drawer().waitFor();
});

it('lists the requests of the page as they happen, with what came of them', async () => {
  await until(() => count('Rows'), '1');
  await until(() => lines('Rows').first().innerText(), /200\s+Database\s+[\d.,]+ ms\s+25$/);
  await until(() => lines('Table description').first().innerText(), /Service cache/);
  await page.locator('.eph-head-label', { hasText: 'Toll' }).click();
  await until(() => count('Rows'), '2');
  await until(() => lines('Rows').first().innerText(), /sort=toll/);
  // The same once more, of which nothing is counted: the service says that it is what the browser has.
  await open('/tables/passages?columns=id,toll&limit=25&total=none');
  await button('Requests').click();
  await until(() => lines('Rows').first().innerText(), /Database\s+[\d.,]+ ms\s+25$/);
  await button('Refresh').click();
  await until(() => lines('Rows').first().innerText(), /Not modified/);
  expect(['the drawer', await violations(page)]).toEqual(['the drawer', []]);
  await button('Clear').click();
  await until(() => drawer().innerText(), /No requests yet\./);
  await page.keyboard.press('Escape');
  await drawer().waitFor({ state: 'detached' });
  expect(await page.evaluate('document.activeElement.textContent')).toBe('Requests');
});

it('shows of a question its stages, its statement with its values, and the step that takes the most', async () => {
  await lines('Rows').first().getByRole('button').click();
  const details = drawer().locator('.eph-happened-details');
  await until(() => details.innerText(), /Database [\d.,]+ ms/);
  await until(() => details.innerText(), /The database read [\d,]+ rows to show 25\./);
  await until(() => details.locator('pre').innerText(), /^select .*\$1.* limit /);
  await until(() => details.locator('dl').innerText(), /^\$1\s+"disputed"/);
  expect(await details.locator('[data-costly=true]').count()).toBe(1);
  expect(await details.locator('[data-costly=true]').innerText()).toContain('most expensive');
  expect(['its details', await violations(page)]).toEqual(['its details', []]);
  await page.setViewportSize({ width: 390, height: 800 });
  expect(await details.isVisible()).toBe(true);
});

it('says which index a question would want, as a statement to copy', async () => {
  await page.locator('.eph-head-label', { hasText: 'Toll' }).click();
  await until(() => lines('Rows').first().innerText(), /sort=toll/);
  await lines('Rows').first().getByRole('button').click();
  await button('Suggest an index').click();
  const details = drawer().locator('.eph-happened-details');
  await until(
    () => details.innerText(),
    /create index concurrently on "public"\."passages" \("status", "toll", "id"\);\s+About [\d.]+ MB/,
  );
  expect(['its advice', await violations(page)]).toEqual(['its advice', []]);
});

it('gives a request away as a command and as code', async () => {
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await lines('Rows').first().getByRole('button').click();
  const clipboard = (): Promise<string> => page.evaluate('navigator.clipboard.readText()');
  await button('Copy as curl').click();
  await until(
    clipboard,
    /^curl .* \\\n {2}'http:\/\/127\.0\.0\.1:\d+\/api\/tables\/passages\/rows\?/,
  );
  await button('Copy as code').click();
  await until(clipboard, /^const response = await fetch\('http/);
  const rows = await page.evaluate(
    `(async () => { ${await clipboard()}; return answer.rows.length; })()`,
  );
  expect(rows).toBe(25);
});

it('reports what was refused', async () => {
  await open('/tables/passages?filter=tol>1');
  await button('Requests').click();
  await until(() => lines('Rows').first().innerText(), /400\s+Failed/);
  await lines('Rows').first().getByRole('button').click();
  await until(() => drawer().locator('.eph-happened-details').innerText(), /Unknown column tol/);
});
