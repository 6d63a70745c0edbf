import { until } from '../../../core/src/testing/until.ts';
import { ownPages } from '../testing/own-pages.ts';
import { tableTests } from '../testing/table-tests.ts';

const at = tableTests('in-page', ownPages);
const { open, says, logged } = at;

afterEach(() => expect(at.complaints).toEqual([]));

describe('a table in a page', () => {
  it('means the days of its own time zone, in conditions and in cells', async () => {
    await open('dated');
    await says('of ');
    await at.page.getByRole('button', { name: 'Filter Passed at' }).click();
    const days = at.page.getByRole('dialog').locator('input[type=date]');
    await days.nth(0).fill('2024-03-05');
    await days.nth(1).fill('2024-03-05');
    await at.page.getByRole('button', { name: 'Apply' }).click();
    // Midnight there is ten in the morning of the day before in UTC.
    await at.page.waitForURL(/2024-03-04T10%3A00/);
    await says(/^Rows 1–/);
    const found = await at.page.locator('.eph-row > [aria-colindex="2"]').allTextContents();
    expect(found.length).toBeGreaterThan(1);
    expect(new Set(found.map((day) => day.split(',')[0]))).toEqual(new Set(['Mar 5']));
    const shown = async (zone: string): Promise<string[]> => {
      await at.page.goto(`${at.served.url}/?${zone}#zoned`);
      await says('of ');
      return at.page.locator('.eph-row > [aria-colindex="2"]').allTextContents();
    };
    const [utc, there] = [await shown('UTC'), await shown('Asia/Tokyo')];
    expect(there).not.toEqual(utc);
  });

  it('begins nothing again for what is made again at every drawing', async () => {
    await open('inline');
    await says('of ');
    await at.page.locator('.row-0').first().waitFor();
    // The block that comes next is there as well.
    await at.page.getByRole('grid').evaluate((grid) => grid.scrollTo(0, 34 * 120));
    await says('Rows 121–');
    await at.page.locator('[role=grid][aria-busy=false]').waitFor();
    const requests: string[] = [];
    at.page.on('request', (request) => {
      // The ruler comes when it comes, and whether others have written is still checked.
      if (/\/api\/(?!.*\/(written|mileposts))/.test(request.url())) requests.push(request.url());
    });
    await at.page.getByRole('grid').evaluate((grid) => grid.scrollTo(0, 34 * 20));
    for (const drawing of [1, 2, 3]) {
      await at.page.evaluate('window.again()');
      await at.page.locator(`.row-${drawing}`).first().waitFor();
    }
    expect(requests).toEqual([]);
    await says('Rows 21–');
    await at.page.locator('.eph-row').nth(5).click();
    // The callback of the last drawing, not of the first.
    expect(await logged()).toContain(3);
  });

  it('shows rows in a parent that has no height, not all of them', async () => {
    await open('bare');
    await says('of ');
    const box = await at.page.getByRole('grid').boundingBox();
    expect(box?.height).toBeGreaterThan(200);
    expect(box?.height).toBeLessThan(700);
    expect(await at.page.locator('.eph-row').count()).toBeLessThan(40);
    await at.page.getByText('below').waitFor();
  });

  it('has others next to it: keys, choices and search are its own', async () => {
    await open('two');
    const [left, right] = [at.page.locator('section').nth(0), at.page.locator('section').nth(1)];
    await left.locator('[role=status]').filter({ hasText: 'of 64' }).waitFor();
    await right.locator('.eph-row').nth(5).waitFor();
    await right.locator('[role=status]').filter({ hasText: ' of 250' }).waitFor();
    const all = await right.locator('[role=status]').textContent();
    await left.getByRole('searchbox').fill('gate');
    await left
      .locator('[role=status]')
      .filter({ hasText: /of \d$/ })
      .waitFor();
    expect(await right.locator('[role=status]').textContent()).toBe(all);
    await left.locator('.eph-row').first().getByRole('checkbox').check();
    await left.getByText('1 row of Locks selected').waitFor();
    expect(await right.getByText('selected').count()).toBe(0);
    await right.getByRole('grid').focus();
    const active = left.locator('.eph-row[data-active=true]');
    const before = await active.getAttribute('aria-rowindex');
    for (const key of ['ArrowDown', 'ArrowDown']) await at.page.keyboard.press(key);
    expect(await active.getAttribute('aria-rowindex')).toBe(before);
    const ids = await at.page.locator('[id]').evaluateAll((marked) => marked.map(({ id }) => id));
    expect(new Set(ids).size).toBe(ids.length);
  });

  it('fills its place when a tab that was hidden is shown', async () => {
    await open('hidden');
    await at.page.getByText('first', { exact: true }).waitFor();
    await at.page.getByRole('button', { name: 'second' }).click();
    await says('of ');
    await until(
      () => at.page.locator('.eph-row').count(),
      (count) => count > 12,
    );
    const grid = await at.page.getByRole('grid').boundingBox();
    const rows = await at.page
      .locator('.eph-row')
      .evaluateAll((all) => all.map((row) => row.getBoundingClientRect().bottom));
    expect(Math.max(...rows)).toBeGreaterThanOrEqual((grid?.y ?? 0) + (grid?.height ?? 0) - 2);
  });

  it('keeps its place where it is hidden as it comes to rest', async () => {
    await open('bare');
    await says('of ');
    const grid = at.page.getByRole('grid');
    await grid.evaluate(async (element) => {
      const frame = (): Promise<unknown> =>
        new Promise((visibleRange) => requestAnimationFrame(visibleRange));
      const around = element.closest<HTMLElement>('.eph-view');
      if (around === null) throw new Error('no page');
      element.scrollTop = 34 * 20;
      await frame();
      await frame();
      around.style.display = 'none';
      for (let hidden = 0; hidden < 30; hidden += 1) await frame();
      around.style.display = '';
      for (let shown = 0; shown < 20; shown += 1) await frame();
    });
    expect(await grid.evaluate((element) => element.scrollTop)).toBe(34 * 20);
    await says(/^Rows 21–/);
  });

  it('goes to every row in a page that is zoomed', async () => {
    // A browser's zoom of 150 %: as many px fewer, each as much larger.
    const zoomed = await at.browser.newContext({
      viewport: { width: 853, height: 533 },
      deviceScaleFactor: 1.5,
    });
    const large = await zoomed.newPage();
    await large.goto(`${at.served.url}/?#inline`);
    const grid = large.getByRole('grid');
    await large.locator('[role=status]').filter({ hasText: 'of 20,000' }).waitFor();
    await grid.focus();
    await large.keyboard.press('Control+End');
    await large.locator('.eph-row[aria-rowindex="20001"][data-active=true]').waitFor();
    const [last, around] = [
      await large.locator('.eph-row[aria-rowindex="20001"]').boundingBox(),
      await grid.boundingBox(),
    ];
    const [bottom, floor] = [last, around].map((box) => (box?.y ?? 0) + (box?.height ?? 0));
    expect(bottom).toBeLessThanOrEqual((floor ?? 0) + 1);
    await large.keyboard.press('Control+Home');
    await large.locator('.eph-row[aria-rowindex="2"][data-active=true]').waitFor();
    await zoomed.close();
  });
});
