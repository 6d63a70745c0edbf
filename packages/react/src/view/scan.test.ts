import { perform, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { tablePages } from '../testing/table-pages.ts';
import { tableTests } from '../testing/table-tests.ts';

const at = tableTests('looking', tablePages);
const { open, says } = at;

const requests = (path: string): string[] => {
  const visible: string[] = [];
  at.page.on('request', (request) => {
    if (request.url().includes(path)) visible.push(request.url());
  });
  return visible;
};

describe('what others write', () => {
  const touch = (): Promise<void> =>
    perform(testDatabases().lowmere, ['update owners set name = name where id = 1']);

  it('is reported, and shown when that is wanted; the rows stay until then', async () => {
    const rows = requests('/owners/rows');
    const scanned = at.page.waitForResponse(/\/owners\/written/);
    await open('watched');
    await says(/of [\d,]+/);
    // What is written before the first look is not reported.
    await scanned;
    await at.page.locator('[role=grid][aria-busy=false]').waitFor();
    const startedAt = rows.length;
    await touch();
    const note = at.page.locator('.eph-changed');
    await note.waitFor();
    expect(await note.innerText()).toMatch(/^Changed since \d\d:\d\d( [AP]M)?\s+Show$/);
    expect(rows).toHaveLength(startedAt);
    await at.page.getByRole('button', { name: 'Show', exact: true }).click();
    await note.waitFor({ state: 'detached' });
    await until(
      () => Promise.resolve(rows.length),
      (count) => count > startedAt,
    );
  });

  it('is not queried where nobody wants to know', async () => {
    const written = requests('/written');
    await open('unwatched');
    await says(/of [\d,]+/);
    expect(written).toEqual([]);
  });
});

describe('a narrow table', () => {
  it('has rows as cards, the rest of which unfolds under them', async () => {
    await open('narrow');
    await says(/of 64/);
    const card = at.page.locator('.eph-table[data-cards] .eph-row').first();
    await card.waitFor();
    const shown = await card.locator('.eph-cell').count();
    expect(shown).toBe(5);
    await card.click();
    const rest = at.page.locator('.eph-unfolded');
    await rest.waitFor();
    // Each column is on the card, or under it.
    expect((await rest.locator('dt').count()) + shown).toBe(7);
    await card.click();
    await rest.waitFor({ state: 'detached' });
  });
});

it('says first what no reader can change, and begins with what they can', async () => {
  await open('fixed');
  const sentence = at.page.getByTestId('sentence');
  await sentence.getByText('rise m is above 2').waitFor();
  expect(await sentence.innerText()).toMatch(/where rise m is above .* and id is at most 40/);
  expect(await sentence.getByRole('button', { name: /rise m/ }).count()).toBe(0);
  expect(await at.page.getByLabel('Filter', { exact: true }).inputValue()).toBe('id <= 40');
  await at.page.getByRole('button', { name: 'Clear' }).click();
  await until(
    () => sentence.innerText(),
    (text) => !text.includes('at most 40'),
  );
  expect(await sentence.innerText()).toContain('rise m is above');
});

it('is slow where local data are to be slow', async () => {
  await open('simulated');
  await at.page.locator('[role=grid][aria-busy=true]').waitFor();
  await says(/of 500/);
});
