import { violations } from '../../../examples/fixtures.ts';
import { recordedService } from '../../service/src/testing/recorded.ts';
import { consoleFolder, consoleOver, open, page, service, until } from './testing/fixtures.ts';

/** Tables enough to be a wall of them. */
const many = Array.from({ length: 173 }, (_, index) => `basin_${String(index + 1)}`);

consoleOver(async () => {
  const { service: running, close } = await recordedService(
    'home',
    [
      ...many.map((name) => `create table ${name} (id int primary key)`),
      "comment on table basin_42 is 'Where the herons are'",
      'insert into basin_2 select generate_series(1, 1234)',
      'analyze basin_2',
      // The planner still knows the number of before.
      'insert into basin_2 select generate_series(2001, 2003)',
    ],
    { consoleFolder },
  );
  return { ...running, close };
});

const titles = async (): Promise<string> =>
  (await page.locator('ol a > span:first-child').allInnerTexts()).join(', ');

it('finds one of many tables by words of its name or of what is stated about it', async () => {
  await open('/');
  const field = page.getByRole('searchbox', { name: 'Search tables' });
  await field.fill('HERONS');
  await until(titles, 'Basin 42');
  await field.fill('17 basin');
  await until(titles, 'Basin 117, Basin 17, Basin 170, Basin 171, Basin 172, Basin 173');
  await field.fill('harbour');
  await page.getByText('No matching table.').waitFor();
  await field.fill('');
  await until(titles, /^(?:Basin \d+(?:, |$)){173}$/);
  expect(['home', await violations(page)]).toEqual(['home', []]);
});

it('remembers what was read last and what shall come first, and leads to views', async () => {
  for (const name of ['basin_3', 'basin_9', 'basin_3']) {
    await open(`/tables/${name}`);
    await page.getByRole('heading', { name: /^Basin/ }).waitFor({ state: 'attached' });
  }
  const { ok } = await fetch(`${service.url}/api/views`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ table: 'basin_5', name: 'Low', view: { version: 1, filter: 'id < 3' } }),
  });
  expect(ok).toBe(true);
  await open('/');
  await until(
    () => page.locator('p', { hasText: 'Recent' }).innerText(),
    /Recent\s+Basin 3\s+Basin 9$/,
  );
  await page.getByRole('button', { name: 'Pin Basin 99' }).click();
  await until(titles, /^Basin 99, Basin 1, /);
  await page.reload();
  await until(titles, /^Basin 99, Basin 1, /);
  await page.getByRole('button', { name: 'Pin Basin 99' }).click();
  await until(titles, /^Basin 1, /);
  await page.getByRole('link', { name: 'Low Basin 5' }).click();
  await until(() => Promise.resolve(page.url()), /\/tables\/basin_5\?.*filter=id/);
});

it('counts small tables exactly', async () => {
  await open('/');
  await page.getByRole('link', { name: 'Basin 2 1,237 rows' }).waitFor();
});

it('is in English in a browser that names no language', async () => {
  await page.addInitScript(() => Object.defineProperty(navigator, 'language', { get: () => 'C' }));
  await open('/');
  await page.getByRole('link', { name: 'Basin 2 1,237 rows' }).waitFor();
  await page.goto(`${service.url}/tables/basin_2`);
  await page.getByRole('gridcell').first().waitFor();
});
