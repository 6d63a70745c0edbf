import { frames } from '../../../../examples/fixtures.ts';
import { until } from '../../../core/src/testing/until.ts';
import { tablePages } from '../testing/table-pages.ts';
import { tableTests } from '../testing/table-tests.ts';

const at = tableTests('table-view', tablePages);
const { open, says, logged } = at;

describe('the finished table', () => {
  it.each([
    ['client', 'the client is another one at every drawing'],
    ['columns', 'columns is another one at every drawing'],
    ['unknown', 'locks has no column nmae, so that it is not shown. There are id, canal_id, name'],
    ['source', 'no row has a column nmae: its cells stay empty. Rows have id, name.'],
  ])('tells a mistake once, and shows the rows all the same: %s', async (name, message) => {
    await open(name);
    await says(/of (64|500)/);
    await until(
      () => Promise.resolve(at.complaints.length),
      (count) => count > 0,
    );
    // However often the table is drawn from then on.
    await frames(at.page, 40);
    expect(at.complaints).toEqual([expect.stringContaining(message)]);
    expect(await at.page.locator('.eph-row').count()).toBeGreaterThan(10);
    // Nobody writes files here.
    expect(await at.page.getByText('Export').count()).toBe(0);
  });

  it('takes callbacks that are made again at every drawing', async () => {
    await open('looking');
    await says(/of 64/);
    await at.page.locator('output', { hasText: /^0 to [1-9]/ }).waitFor();
    const drawings = Number(await at.page.evaluate('window.drawings'));
    await frames(at.page, 30);
    // Nothing begins again because of them.
    expect(Number(await at.page.evaluate('window.drawings')) - drawings).toBeLessThan(5);
    expect(at.complaints).toEqual([]);
  });

  it('begins other rows at the place that is stated by then, not at the one before', async () => {
    await open('begun');
    /** The first row that is wholly visible. */
    const first = (): Promise<string> =>
      at.page.evaluate(() => {
        const top = document.querySelector('.eph-head')?.getBoundingClientRect().bottom ?? 0;
        const observed = [...document.querySelectorAll('.eph-row[aria-busy=false]')]
          .map((row) => [row.getBoundingClientRect().top, row.textContent] as const)
          .filter(([above]) => above >= top - 1)
          .sort(([one], [other]) => one - other);
        return observed[0]?.[1] ?? '';
      });
    await until(first, (id) => id === '300');
    const grid = at.page.locator('[role=grid]');
    for (const begins of ['300', '0']) {
      await grid.evaluate((element) => (element.scrollTop = 100 * 34));
      await until(first, (id) => id === '100');
      await at.page.getByText('other rows').click();
      await until(first, (id) => id === begins);
    }
  });

  it('goes where the browser has scrolled to, also in the moment in which it comes to rest', async () => {
    await open('begun');
    await at.page.locator('[role=grid][aria-busy=false] .eph-row').first().waitFor();
    const places = await at.page.evaluate(async () => {
      const grid = document.querySelector('[role=grid]');
      const frame = (): Promise<unknown> =>
        new Promise((visibleRange) => requestAnimationFrame(visibleRange));
      const visible: (number | undefined)[] = [];
      for (const row of [100, 200, 50]) {
        if (grid !== null) grid.scrollTop = row * 34;
        await frame();
        await frame();
        // Moved once more, and no time to say so before the first movement has come to rest.
        if (grid !== null) grid.scrollTop = (row + 3) * 34;
        const began = performance.now();
        while (performance.now() - began < 250);
        for (let rest = 0; rest < 20; rest += 1) await frame();
        visible.push(grid?.scrollTop);
      }
      return visible;
    });
    expect(places).toEqual([103 * 34, 203 * 34, 53 * 34]);
  });

  it('shows rows that are there in every frame of a scroll, with other columns at each', async () => {
    await open('anew');
    await at.page.locator('[role=grid][aria-busy=false] .eph-row').first().waitFor();
    const missing = await at.page.evaluate(async () => {
      const grid = document.querySelector('[role=grid]');
      const seenValues: number[] = [];
      for (let frame = 0; frame < 30 && grid !== null; frame += 1) {
        grid.scrollTop += 34;
        // What the scroll brings about is drawn within the frame after it.
        await new Promise((next) => requestAnimationFrame(() => requestAnimationFrame(next)));
        seenValues.push(grid.querySelectorAll('.eph-row[aria-busy=true]').length);
      }
      return seenValues;
    });
    expect(missing).toHaveLength(30);
    expect(Math.max(...missing)).toBe(0);
  });

  it('reports a failure once, though that draws the table again', async () => {
    await open('falling');
    await until(logged, (log) => (log as string[]).length > 0);
    await frames(at.page, 30);
    // Each further try that fails is a failure of its own.
    expect(((await logged()) as string[]).length).toBeLessThan(4);
    expect(await at.page.locator('.eph-view').count()).toBe(1);
  });

  it('keeps the page where data, a value or a cell cannot be drawn', async () => {
    await open('malformed');
    await at.page.getByText('Line 2 of the CSV text has 3 values for 2 columns.').first().waitFor();
    await open('odd');
    await at.page.reload();
    await at.page.getByText('0.123456789123456789').first().waitFor();
    await open('undrawn');
    await at.page.reload();
    await at.page.getByRole('alert').filter({ hasText: 'no such colour' }).waitFor();
    expect(await at.page.getByText('the rest of the page').count()).toBe(1);
  });

  it('marks the sort that it is given, and offers the page size that it has', async () => {
    await open('based');
    await at.page.locator('[aria-sort=descending]').waitFor();
    await at.page.getByRole('button', { name: '25 per page' }).click();
    await at.page.getByRole('radio', { name: '25 per page', checked: true }).waitFor();
    expect(await at.page.getByRole('radio', { name: /per page/ }).allTextContents()).toEqual([
      '25 per page',
      '50 per page',
      '100 per page',
      '200 per page',
    ]);
  });

  it('follows a state that is stored elsewhere, and reports every change', async () => {
    await open('controlled');
    const sorted = at.page.getByRole('columnheader', { name: 'Name' });
    await at.page.locator('[aria-sort=descending]').waitFor();
    await sorted.getByText('Name').click();
    await at.page.locator('[aria-sort=descending]').waitFor({ state: 'detached' });
    await at.page.getByRole('searchbox').fill('gate');
    await says(/Rows 1–\d of \d/);
    // What is stored elsewhere, and not changed there, does not change.
    await at.page.getByRole('button', { name: 'Columns' }).click();
    await at.page.getByRole('checkbox', { name: 'Id' }).click();
    expect(await at.page.getByRole('columnheader').count()).toBe(2);
    const changes = (await logged()) as string[];
    expect(changes.slice(0, 2)).toEqual(['sort', 'search']);
    expect(changes.at(-1)).toBe('columns');
  });

  it('keeps its own state: page, page size, what is visible', async () => {
    await open('pages');
    await says(/^Rows 21–40 of/);
    await at.page.getByRole('button', { name: 'Next' }).click();
    await says(/^Rows 41–/);
    await at.page.getByRole('button', { name: '20 per page' }).click();
    await at.page.getByRole('radio', { name: '100 per page' }).click();
    await says(/^Rows 1–/);
    expect(((await logged()) as number[][]).some(([first]) => first === 40)).toBe(true);
    await at.page.getByRole('button', { name: 'Last' }).click();
    await at.page.locator('.eph-pages [aria-current=page]').waitFor();
    expect(await at.page.getByRole('button', { name: 'Next' }).isDisabled()).toBe(true);
  });

  it('says why there are no rows, and asks again', async () => {
    await open('failing');
    await at.page.getByText('the shelf is empty').waitFor();
    expect(await logged()).toContain('the shelf is empty');
    await at.page.evaluate('window.mend()');
    await at.page.locator('.eph-instead button').click();
    await says('of 100');
    await open('empty');
    await at.page.reload();
    await at.page.getByText('T is empty.').waitFor();
  });

  it('has a strip that says which values lie where, and leads there', async () => {
    await open('ruler');
    const marks = at.page.locator('.eph-ruler-mark');
    await marks
      .filter({ hasText: /20\d\d/ })
      .nth(2)
      .waitFor();
    const strip = await at.page.locator('.eph-ruler').boundingBox();
    if (strip === null) throw new Error('no ruler');
    await at.page.mouse.move(strip.x + 20, strip.y + strip.height / 2);
    await at.page.mouse.down();
    await at.page
      .locator('.eph-ruler-label')
      .filter({ hasText: /Row [\d,]+ · .*20\d\d/ })
      .waitFor();
    await at.page.mouse.up();
    await says(/^Rows (9|10),\d{3}–/);
  });

  it('shows the last page where a page past the end was requested', async () => {
    await open('past');
    await says(/^Rows 61–64 of 64/);
  });

  it('is put together of its parts by anyone who wants that', async () => {
    await open('parts');
    await says('of 64');
    expect(await at.page.getByTestId('sentence').count()).toBe(0);
    await at.page.getByRole('button', { name: 'Continuous scroll' }).click();
    await at.page.getByRole('radio', { name: '50 per page' }).click();
    await says('Rows 1–50 of 64');
  });

  it('lets readers take back a grouping that they did not ask for, and no condition', async () => {
    await open('grouped');
    await at.page.getByRole('treegrid').waitFor();
    await says(/^Lines 1–/);
    // What is requested anyway is no phrase of the reader's.
    const note = at.page.getByTestId('sentence');
    expect(await note.textContent()).toContain('rise m is above 2');
    expect(await note.getByRole('button', { name: /rise/ }).count()).toBe(0);
    await at.page.getByRole('button', { name: 'Stop grouping by Canal' }).click();
    await at.page.getByRole('grid').waitFor();
    await says(/^Rows 1–\d+ of (?!64)\d+$/);
  });

  it('leaves the keyboard at the header that it sorts by', async () => {
    await open('messages');
    await says('of 64');
    await at.page.getByRole('grid').focus();
    for (const key of ['ArrowDown', 'ArrowUp', 'ArrowRight', 'Enter'])
      await at.page.keyboard.press(key);
    await at.page.locator('[aria-sort=ascending][data-active=true]').waitFor();
    await at.page.keyboard.press('Enter');
    await at.page.locator('[aria-sort=descending][data-active=true]').waitFor();
  });

  it('takes the keyboard back as a menu closes, unless a reader has gone elsewhere', async () => {
    await open('kept');
    const first = at.page.locator('.eph-row .eph-cell').first();
    const menu = at.page.getByRole('menu');
    await first.click({ button: 'right' });
    await menu.waitFor();
    await at.page.keyboard.press('Escape');
    await at.page.locator('[role=grid]:focus').waitFor();
    await first.click({ button: 'right' });
    await menu.waitFor();
    const where = at.page.getByRole('textbox', { name: 'Filter' });
    await where.click();
    await menu.waitFor({ state: 'detached' });
    await frames(at.page, 2);
    await at.page.keyboard.type('id < 9');
    await until(
      () => where.inputValue(),
      (text) => text === 'id < 9',
    );
  });

  it('has one stop of the Tab key, and leads into what its cells hold by keys of its own', async () => {
    await open('keyed');
    await says('of 64');
    const buttons = at.page.locator('.eph-cell button');
    await buttons.first().waitFor();
    const stops = await buttons.evaluateAll((all) =>
      all.map((one) => (one as HTMLElement).tabIndex),
    );
    expect(new Set(stops)).toEqual(new Set([-1]));
    const grid = at.page.getByRole('grid');
    await grid.focus();
    const active = async (): Promise<string> => {
      const id = (await grid.getAttribute('aria-activedescendant')) ?? '';
      return `${id} ${(await at.page.locator(`[id="${id}"]`).textContent()) ?? ''}`;
    };
    const known: string[] = [];
    for (const key of ['ArrowDown', 'ArrowRight', 'ArrowDown']) {
      await at.page.keyboard.press(key);
      known.push(await active());
    }
    // Each cell has a name of its own.
    expect(new Set(known.map((one) => one.split(' ')[0])).size).toBe(3);
    await at.page.keyboard.press('F2');
    await at.page.keyboard.press('Enter');
    const log = (await logged()) as string[];
    expect(log).toEqual([expect.stringMatching(/^pressed /), expect.stringMatching(/^row /)]);
    expect(log[0]?.slice(8)).toBe(log[1]?.slice(4));
  });

  it('asks again for what is in view, and keeps the place', async () => {
    await open('refreshed');
    await says('of 20,000');
    await at.page.getByRole('grid').evaluate((grid) => grid.scrollTo(0, 34 * 5_000));
    await says(/^Rows 5,001–/);
    const requests: string[] = [];
    const shown = (): Promise<string[]> => at.page.locator('.eph-row').allTextContents();
    await at.page.locator('[role=grid][aria-busy=false]').waitFor();
    const before = await shown();
    at.page.on('request', (request) => requests.push(new URL(request.url()).pathname));
    await at.page.evaluate('window.refresh()');
    await until(
      () => Promise.resolve(requests),
      (all) =>
        all.some((one) => one.endsWith('/rows')) && all.some((one) => one.endsWith('/aggregates')),
    );
    // The old rows stand until the new ones come.
    expect(await shown()).toEqual(before);
    await at.page.locator('[role=grid][aria-busy=false]').waitFor();
    expect(await shown()).toEqual(before);
    await says(/^Rows 5,001–.* of 20,000/);
    requests.length = 0;
    await at.page.getByRole('button', { name: 'Refresh' }).click();
    await until(
      () => Promise.resolve(requests),
      (all) => all.length > 0,
    );
  });

  it('sets its rows close together or far apart', async () => {
    await open('messages');
    await says('of 64');
    const height = (): Promise<number | undefined> =>
      at.page
        .locator('.eph-row')
        .first()
        .boundingBox()
        .then((box) => box?.height);
    expect(await height()).toBe(34);
    await at.page.getByRole('button', { name: 'Appearance' }).click();
    await at.page.getByRole('radio', { name: 'Large' }).click();
    await until(height, (now) => now === 44);
  });

  it('says so where its editors cannot be loaded, and loads them again', async () => {
    await at.page.route(/editors/, (route) => route.abort());
    await open('messages');
    await says('of 64');
    const offer = at.page.getByRole('button', { name: '+ Filter' });
    await offer.click();
    await at.page.getByRole('alert').filter({ hasText: 'Loading failed' }).waitFor();
    // The rows stay.
    expect(await at.page.locator('.eph-row').count()).toBeGreaterThan(10);
    await at.page.unroute(/editors/);
    await at.page.getByRole('button', { name: 'Try again' }).click();
    await at.page.getByRole('dialog').waitFor();
    at.complaints.length = 0;
  });

  it('says what it was not given', async () => {
    await open('nowhere');
    await at.page.getByText('give a client and a table, or a source').waitFor();
  });

  it('asks nobody for small results that are stored, and says up to how many rows', async () => {
    await open('kept');
    await says('of 64');
    await at.page.getByText('In memory (results up to 100 rows)').waitFor();
    let startedAt = 0;
    at.page.on('request', (request) => {
      // Whether others have written is still checked.
      if (/\/api\/(?!.*\/written)/.test(request.url())) startedAt += 1;
    });
    await at.page.getByRole('columnheader', { name: 'Name' }).getByText('Name').click();
    await at.page.getByText('In memory (results up to 100 rows)').waitFor();
    await at.page.getByRole('searchbox').fill('gate');
    await says(/of \d$/);
    expect(startedAt).toBe(0);
  });

  it('says its messages in any language, and writes numbers as the reader does', async () => {
    await open('messages');
    await at.page.getByPlaceholder('seek').waitFor();
    await says('of 64');
  });
});

describe('the hooks', () => {
  it('give the rows of any window', async () => {
    await open('own');
    await at.page.locator('li').filter({ hasNotText: 'loading' }).first().waitFor();
    expect(await at.page.locator('ul').getAttribute('data-from')).toBe('10');
    const names = await at.page.locator('li').allTextContents();
    expect(names).toHaveLength(5);
    expect(new Set(names).size).toBe(5);
  });
});
