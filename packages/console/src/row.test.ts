import { freshDatabase, testDatabases } from '../../../demo/src/testing/databases.ts';
import { holdCount } from '../../../examples/fixtures.ts';
import { startService } from '../../service/src/testing/service.ts';
import { consoleFolder, consoleOver, open, page, service, until } from './testing/fixtures.ts';

const card = (): ReturnType<typeof page.locator> => page.locator('.eph-card');
const titled = (name: string): Promise<void> =>
  card().getByRole('heading', { level: 2, name, exact: true }).waitFor();

describe('the address of a row', () => {
  consoleOver(() =>
    startService(testDatabases().lowmere, 'tables: { passages: { sort: -passed_at } }', {
      consoleFolder,
    }),
  );

  it('opens it on its card, keeps the view, and leads on and back', async () => {
    await open('/tables/passages/rows/17?sort=id');
    await titled('17');
    // What is related is a step in the history, without the page being loaded again.
    await page.evaluate('window.here = true');
    const lock = card()
      .locator('.eph-card-field', { hasText: /^Lock id/ })
      .getByRole('link');
    const name = await lock.innerText();
    await lock.click();
    await titled(name);
    expect(page.url()).toMatch(/\/tables\/locks\/rows\/\d+$/);
    expect(await page.evaluate('window.here')).toBe(true);
    await page.goBack();
    await titled('17');
    expect(page.url()).toBe(`${service.url}/tables/passages/rows/17?sort=id`);
    await card().getByRole('button', { name: 'Next', exact: true }).click();
    await titled('18');
    expect(page.url()).toBe(`${service.url}/tables/passages/rows/18?sort=id`);
    await card().getByRole('button', { name: 'Close', exact: true }).click();
    await card().waitFor({ state: 'detached' });
    expect(page.url()).toBe(`${service.url}/tables/passages?sort=id`);
  });

  it('leads to all rows that refer to it', async () => {
    await open('/tables/locks/rows/3');
    const referring = card().locator('details', { hasText: 'Passages' });
    const counted = referring.locator('.eph-count');
    await until(() => counted.textContent(), /^[\d,]+$/);
    const count = await counted.innerText();
    await referring.locator('summary').click();
    await referring.getByRole('link', { name: 'Open all passages' }).click();
    await page
      .locator('[role=status]')
      .filter({ hasText: `of ${count}` })
      .waitFor();
    expect(new URL(page.url()).searchParams.get('filter')).toBe('lock_id = 3');
  });
});

describe('the rows that refer to a row', () => {
  consoleOver(() => startService(testDatabases().lowmere, '', { consoleFolder }));

  it('are about so many until they are counted', async () => {
    const go = await holdCount(page, 1_234, /passages\/rows\?.*total=exact/);
    await open('/tables/locks/rows/3');
    const count = card().locator('details', { hasText: 'Passages' }).locator('.eph-count');
    await until(() => count.textContent(), 'about 1,234');
    go();
    await until(() => count.textContent(), /^[\d,]+$/);
  });
});

describe('keys of any kind', () => {
  let drop: () => Promise<void>;

  consoleOver(async () => {
    const made = await freshDatabase('odd_keys', [
      'create table odd (a text, b int, note text, primary key (a, b))',
      `insert into odd values ('x/y, z', 1, 'slash'), ('50%', 2, 'percent'), ('é ü', 3, 'letters')`,
    ]);
    ({ drop } = made);
    return startService(made.url, '', { consoleFolder });
  });

  afterAll(() => drop());

  it('have addresses that open their rows', async () => {
    for (const note of ['slash', 'percent', 'letters']) {
      await open(`/tables/odd?filter=note='${note}'`);
      await page.locator('.eph-row[aria-busy=false]').first().waitFor();
      await page.getByRole('button', { name: 'Open row' }).click({ force: true });
      await card().locator('.eph-card-field', { hasText: note }).waitFor();
      const url = page.url();
      await page.goto(url);
      await card().locator('.eph-card-field', { hasText: note }).waitFor();
      await page.locator('.eph-row.eph-opened').waitFor();
    }
  });
});
