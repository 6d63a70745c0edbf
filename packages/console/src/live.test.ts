import { hold, violations } from '../../../examples/fixtures.ts';
import { freshDatabase, perform } from '../../../demo/src/testing/databases.ts';
import { liveTriggersOf as triggersOf } from '@ephoros/core/sql';
import { startService } from '../../service/src/testing/service.ts';
import {
  cells,
  consoleFolder,
  consoleOver,
  grid,
  loaded,
  open,
  page,
  until,
} from './testing/fixtures.ts';

let address = '';
const write = (statement: string): Promise<void> => perform(address, [statement]);

consoleOver(async () => {
  const { url, drop } = await freshDatabase('console_live', [
    'create table berths (id int primary key, name text not null, fee int)',
    "insert into berths select i, 'Berth ' || i, i from generate_series(1, 300) i",
  ]);
  address = url;
  await write(triggersOf({ key: ['id'] } as never, { schema: 'public', name: 'berths' }).add);
  const running = await startService(url, '', { consoleFolder });
  return {
    ...running,
    close: async () => {
      await running.close();
      await drop();
    },
  };
});

/** Opens a view, and waits until its rows are there and changes by others are reported from then on. */
async function watched(path: string): Promise<void> {
  const events = page.waitForResponse(/\/berths\/live/);
  await open(path);
  await loaded();
  await events;
}

const names = async (): Promise<string> => (await cells('Name')).slice(0, 3).join();

it('shows what others write as they write it, marks it, and says what came before', async () => {
  await watched('/tables/berths?sort=-id&columns=id,name,fee');
  expect(await names()).toBe('Berth 300,Berth 299,Berth 298');
  await write("update berths set name = 'North berth' where id in (299, 5)");
  const marked = page.locator('[role=gridcell][data-live=changed]');
  await until(async () => (await marked.allInnerTexts()).join(), 'North berth');
  expect(await names()).toBe('Berth 300,North berth,Berth 298');
  await marked.waitFor({ state: 'detached' });

  await write("insert into berths values (301, 'New berth', 1), (302, 'Newer berth', 2)");
  await page.getByRole('status').filter({ hasText: '2 came before these' }).waitFor();
  expect(await names()).toBe('Newer berth,New berth,Berth 300');
  expect(['live', await violations(page)]).toEqual(['live', []]);
  await write('delete from berths where id > 300');
  await page.getByRole('status').filter({ hasText: '2 before these are gone' }).waitFor();
  expect(await names()).toBe('Berth 300,North berth,Berth 298');
});

it.each(['pages', 'scroll'])(
  'keeps what is read in its place, with the active cell, while rows come and go before it: %s',
  async (reading) => {
    await watched(`/tables/berths?sort=-id&columns=id,name,fee&reading=${reading}`);
    await grid().focus();
    for (let turn = 0; turn < 2; turn += 1) await page.keyboard.press('PageDown');
    await page.keyboard.press('ArrowRight');
    const place = async (): Promise<string> => {
      const id = (await grid().getAttribute('aria-activedescendant')) ?? '';
      const cell = page.locator(`[id="${id}"]`);
      const box = await cell.boundingBox();
      return `${await cell.innerText()} at ${Math.round(box?.y ?? -1)}`;
    };
    await loaded();
    const before = await place();
    expect(before).toMatch(/^\d+ at \d+$/);
    await write("insert into berths select i, 'Newest', 1 from generate_series(401, 403) i");
    await page.getByRole('status').filter({ hasText: '3 came before these' }).waitFor();
    await until(place, before);
    await write('delete from berths where id > 400');
    await page.getByRole('status').filter({ hasText: '3 before these are gone' }).waitFor();
    await until(place, before);
  },
);

it('keeps the table in its place as parts of the page come later', async () => {
  const come = await hold(page, '**/second-table-*.js');
  await watched('/tables/berths?sort=-id&columns=id,name,fee');
  const top = async (): Promise<string> => String((await grid().boundingBox())?.y);
  const before = await top();
  const late = page.locator('.masthead select');
  expect(await late.count()).toBe(0);
  come();
  await late.waitFor();
  expect(await top()).toBe(before);
});

it('asks nothing for rows that are not in view', async () => {
  await watched('/tables/berths?sort=-id&columns=id,name,fee');
  const requests: string[] = [];
  page.on('request', (request) => {
    if (request.url().includes('/rows')) requests.push(request.url());
  });
  // Behind what changes a row elsewhere comes what changes one in view.
  await write('update berths set fee = fee + 1 where id < 100');
  await write("update berths set name = 'Seen' where id = 298");
  await until(names, 'Berth 300,North berth,Seen');
  expect(requests.length).toBeLessThanOrEqual(2);
});
