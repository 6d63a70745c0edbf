import { testDatabases } from '../../../demo/src/testing/databases.ts';
import { startService } from '../../service/src/testing/service.ts';
import { consoleFolder, consoleOver, open, page, until } from './testing/fixtures.ts';

const { lowmere } = testDatabases();

describe('the values of a column', () => {
  consoleOver(() => startService(lowmere, '', { consoleFolder }));

  it('are listed with their counts, searched, and chosen all at once', async () => {
    await open("/tables/passages?filter=status+=+'disputed'+AND+toll+>+20");
    await page.getByLabel('Filter Status').click();
    const list = page.getByRole('list', { name: 'Values of Status' });
    await list.waitFor();
    const answer = await fetch(
      `${page.url().split('/tables')[0] ?? ''}/api/tables/passages/values/status?filter=toll+>+20&sort=-count()`,
    );
    const { values } = (await answer.json()) as { values: { value: string; count: number }[] };
    expect(await list.getByRole('listitem').allTextContents()).toEqual(
      values.map(({ value, count }) => `${value}${count.toLocaleString('en-GB')}`),
    );
    expect(await list.getByLabel('disputed').isChecked()).toBe(true);
    await page.getByLabel('Search values').fill('wa');
    await until(
      async () => (await list.getByRole('listitem').allTextContents()).join(),
      /^wai.*wa|^wa/,
    );
    await until(async () => String(await list.getByRole('listitem').count()), '2');
    await page.getByLabel(/^All 2 listed/).check();
    await page.getByRole('button', { name: 'Apply' }).click();
    await until(
      () => page.getByLabel('Filter', { exact: true }).inputValue(),
      /^status IN \('disputed', '(waived|waiting)', '(waived|waiting)'\) AND toll > 20$/,
    );
  });

  it('of numbers are shown as they are spread; a bar sets the range', async () => {
    await open('/tables/passages');
    await page.getByLabel('Filter Toll').click();
    const bars = page.getByRole('group', { name: 'Distribution' }).getByRole('button');
    await bars.first().waitFor();
    expect(await bars.count()).toBe(24);
    const text = (await bars.nth(3).getAttribute('aria-label')) ?? '';
    await bars.nth(3).click();
    const [, low] = /^([\d.]+)/.exec(text) ?? [];
    await until(
      async () => String(Number(await page.getByLabel('From').inputValue())),
      String(Number(low)),
    );
    expect(await bars.nth(8).getAttribute('data-within')).toBe('false');
    await page.getByRole('button', { name: 'Apply' }).click();
    await until(
      () => page.getByLabel('Filter', { exact: true }).inputValue(),
      /^toll BETWEEN [\d.]+ AND [\d.]+$/,
    );
  });

  it('are there without their counts while counting takes long, where an index reports them', async () => {
    let counts = false;
    await page.route(/\/values\/name\?/, (route) => {
      if (counts || new URL(route.request().url()).searchParams.has('counts')) {
        return route.continue();
      }
      const running = { status: 'running', progress: { share: 0.4, elapsed: 900 } };
      return route.fulfill({ status: 202, json: running });
    });
    await open('/tables/canals');
    await page.getByLabel('Filter Name').click();
    const list = page.getByRole('list', { name: 'Values of Name' });
    await list.waitFor();
    await until(() => page.locator('.eph-awaited').innerText(), /40 %/);
    const there = await list.getByRole('listitem').allTextContents();
    expect(there).toContain('Wend Cut');
    expect(there.join()).not.toMatch(/\d/);
    counts = true;
    await until(
      async () => (await list.getByRole('listitem').allTextContents()).join(),
      /Wend Cut1/,
    );
    expect(await page.locator('.eph-awaited').count()).toBe(0);
  });
});
