import { makeScenario } from '../demo/src/index.ts';
import { perform, testDatabases } from '../demo/src/testing/databases.ts';
import { start } from './fixtures.ts';
import { pageTests } from './page-tests.ts';

const { maintenance } = testDatabases();
const database = 'ephoros_example_editing';
const url = maintenance.replace(/postgres$/, database);

const at = pageTests(
  async () => {
    await makeScenario({ maintenanceUrl: maintenance, database, url, passages: 2000, seed: 7 });
    return start('serve.js', [url]);
  },
  async (served) => {
    await served.stop();
    await perform(maintenance, [`drop database ${database} with (force)`]);
  },
);

afterEach(() => expect(at.complaints).toEqual([]));

it('saves each row as one leaves it, with a field of its own', async () => {
  await at.page.goto(`${at.served.url}/react-editing/`);
  const cells = (row: number) =>
    at.page.locator(`[role=row][aria-rowindex="${row}"] [role=gridcell]`);
  const showsNote = async (text: string): Promise<void> =>
    at.page.locator('main p.aside', { hasText: text }).waitFor();
  await at.page.getByRole('button', { name: 'Add row' }).waitFor();
  const id = await cells(2).nth(1).innerText();
  await cells(2).nth(6).dblclick();
  const slider = at.page.getByRole('slider', { name: 'Waited, in minutes' });
  await slider.fill('60');
  await slider.press('Enter');
  await showsNote('1 to be saved');
  await cells(2).nth(7).dblclick();
  await at.page.keyboard.press('Control+A');
  await at.page.keyboard.type('by the slider');
  await at.page.keyboard.press('Enter');
  await showsNote('1 to be saved');
  await at.page.keyboard.press('ArrowDown');
  await showsNote('All is saved.');
  const answer = await at.page.request.get(`${at.served.url}/api/tables/passages/rows/${id}`);
  const { row } = (await answer.json()) as { row: Record<string, unknown> };
  expect(row).toMatchObject({ wait_minutes: 60, note: 'by the slider' });
});
