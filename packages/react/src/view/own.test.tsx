import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser, Locator, Page } from 'playwright-core';
import { renderToString } from 'react-dom/server';
import { createClient } from '@ephoros/client';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { launch, pageIn } from '../../../../examples/fixtures.ts';
import { TableView } from '../index.ts';
import { firstRows } from '../server.ts';
import { servePage, type ServedPage } from '../testing/built-page.ts';
import { ownPages } from '../testing/own-pages.ts';

let served: ServedPage;
let browser: Browser;
let page: Page;
let complaints: string[];

beforeAll(async () => {
  [served, browser] = await Promise.all([
    servePage('own-table', ownPages, testDatabases().lowmere),
    launch(),
  ]);
}, 60_000);

afterAll(async () => {
  await browser.close();
  await served.close();
});

beforeEach(async () => {
  ({ page, complaints } = await pageIn(browser));
  // Sooner than the test's own limit, so that what was waited for is told.
  page.setDefaultTimeout(15_000);
});

afterEach(async () => {
  expect(complaints).toEqual([]);
  await page.context().close();
});

const open = (name: string, search = ''): Promise<unknown> =>
  page.goto(`${served.url}/${search}#${name}`);
const says = (text: string | RegExp): Promise<void> =>
  page.locator('.eph-view [role=status]').filter({ hasText: text }).first().waitFor();
const logged = (): Promise<unknown[]> => page.evaluate('window.log');
const cell = (row: number, column: number): Locator =>
  page.locator(`.eph-row[aria-rowindex="${row + 1}"] > [aria-colindex="${column}"]`);
const header = (name: string): Locator => page.getByRole('columnheader', { name });
const labels = (): Promise<string[]> => page.locator('.eph-head-label').allTextContents();
const width = async (place: Locator): Promise<number> => (await place.boundingBox())?.width ?? 0;

describe('a table that a page makes its own', () => {
  it('tells which cell of which row was pressed, not what acts for itself', async () => {
    await open('pressed');
    await says('of 64');
    const id = await cell(2, 1).textContent();
    await cell(2, 1).click();
    await cell(1, 2).getByRole('button').click();
    await cell(3, 2).dblclick({ position: { x: 3, y: 8 } });
    // A text that is marked to be copied is no row that is chosen.
    expect(((await logged()) as string[]).slice(0, 3)).toEqual([
      `row ${id} id click`,
      expect.stringMatching(/^button /),
      expect.stringMatching(/^row \d+ name click$/),
    ]);
    await page.evaluate('window.log.length = 0');
    await page.getByRole('grid').focus();
    for (const key of ['Home', 'Control+Home', 'ArrowRight', 'Enter'])
      await page.keyboard.press(key);
    expect(await logged()).toEqual([expect.stringMatching(/^row \d+ name keydown$/)]);
  });

  it('has classes of rows and cells, and names for values', async () => {
    await open('classes');
    await says('of 64');
    const shown = await page.locator('.eph-row').evaluateAll((rows) =>
      rows.map((row) => {
        const cells = [...row.children];
        return {
          manned: row.classList.contains('manned'),
          steep: cells[1]?.classList.contains('steep'),
          rise: Number.parseFloat(cells[1]?.textContent ?? ''),
          title: cells[2]?.className.includes('title'),
          by: cells[3]?.textContent,
        };
      }),
    );
    expect(shown.length).toBeGreaterThan(10);
    for (const { manned, steep, rise, title, by } of shown) {
      expect([steep, title, by]).toEqual([rise > 3, true, manned ? 'by hand' : 'by itself']);
    }
    expect(new Set(shown.map(({ manned }) => manned)).size).toBe(2);
    await page.getByRole('button', { name: 'Condition on Automatic' }).click();
    await page.getByRole('radio', { name: 'by hand' }).check();
    await page.getByRole('button', { name: 'Apply' }).click();
    await says(/of (?!64)/);
    expect(await page.getByTestId('sentence').textContent()).toContain('by hand');
    expect(await page.locator('.eph-row:not(.manned)').count()).toBe(0);
  });

  it('finds values by what they are called, and asks for them by what they are', async () => {
    await open('named');
    await says('of ');
    await page.getByRole('button', { name: 'Condition on Direction' }).click();
    await page.getByRole('searchbox', { name: /find/i }).fill('UPSTREAM');
    await page.getByRole('checkbox', { name: /^upstream/ }).check();
    expect(await page.getByRole('checkbox', { name: /downstream/ }).count()).toBe(0);
    await page.getByRole('button', { name: 'Apply' }).click();
    await page.waitForURL(/filter=direction[^&]*%27up%27/);
    await says(/of (?!20,000)/);
    expect(new Set(await page.locator('.eph-row > [aria-colindex="2"]').allTextContents())).toEqual(
      new Set(['upstream']),
    );
  });

  it('says in its own words why there are no rows', async () => {
    await page.addInitScript('window.fails = true');
    await open('instead');
    await page.getByText('oh: the shelf is locked').waitFor();
    await page.getByRole('button', { name: 'once more' }).click();
    await says('of 64');
    await page.getByRole('searchbox').fill('zzz nothing');
    await page.getByText('no such lock').waitFor();
    await open('empty');
    await page.reload();
    await page.getByText('an empty shelf').waitFor();
    expect(await page.locator('.eph-note-title').count()).toBe(0);
  });

  it('waits in its own words', async () => {
    let go = (): void => undefined;
    const held = new Promise<void>((resolve) => {
      go = resolve;
    });
    await page.route('**/rows?*', async (route) => {
      await held;
      await route.continue();
    });
    await open('instead');
    await page.getByText('fetching the book').waitFor();
    go();
    await says('of 64');
  });

  it('has columns as wide as what they show, by a key, a press of the edge, or from the start', async () => {
    await open('fitted');
    await says('of 64');
    const usual = await width(header('Name'));
    // Cut off where it is too narrow.
    const grip = await header('Name').locator('.eph-grip').boundingBox();
    if (grip === null) throw new Error('no edge to draw');
    await page.mouse.move(grip.x + 4, grip.y + 10);
    await page.mouse.down();
    await page.mouse.move(grip.x - usual + 80, grip.y + 10);
    await page.mouse.up();
    const cutOff = (): Promise<number> =>
      page
        .locator('.eph-row > [aria-colindex="2"] > *')
        .evaluateAll((all) => all.filter((one) => one.scrollWidth > one.clientWidth + 1).length);
    expect(await cutOff()).toBeGreaterThan(3);
    await header('Name').locator('.eph-grip').dblclick();
    await until(cutOff, (count) => count === 0);
    expect(await width(header('Name'))).toBeLessThan(usual + 40);
    // Narrow values, long label: the label has room.
    await page.evaluate('window.fit(["chamber_m", "id"])');
    await until(
      () => page.evaluate<string>('location.search'),
      (search) => /widths=.*chamber_m/.test(search),
    );
    const cut = await header('Chamber')
      .locator('.eph-head-text')
      .evaluate((text) => text.scrollWidth - text.clientWidth);
    expect(cut).toBeLessThanOrEqual(0);
    expect(await width(header('Id'))).toBeLessThan(90);
    await page.getByRole('button', { name: 'Condition on Rise' }).click();
    await page.getByText('Its place and width').click();
    await page.getByRole('button', { name: 'Fit to what is shown' }).click();
    await page.waitForURL(/widths=.*rise_m/);

    await page.goto(`${served.url}/?fitted#fitted`);
    await says('of 64');
    await until(
      () => width(header('Id')),
      (now) => now < 75,
    );
    expect(await cutOff()).toBe(0);
    // What nobody has chosen is no part of the view.
    expect(page.url()).not.toContain('widths');
  });

  it('has its columns moved by their headers, which sort nothing then', async () => {
    await open('fitted');
    await says('of 64');
    const drag = async (name: string, onto: string, part: number): Promise<void> => {
      const [from, to] = [await header(name).boundingBox(), await header(onto).boundingBox()];
      if (from === null || to === null) throw new Error('no header');
      await page.mouse.move(from.x + 20, from.y + 20);
      await page.mouse.down();
      await page.mouse.move(from.x + 40, from.y + 20);
      // What follows the pointer is loaded with the first press.
      await until(
        async () => {
          await page.mouse.move(to.x + to.width * part, to.y + 20, { steps: 3 });
          return page.locator('[data-dragging=true]').count();
        },
        (count) => count > 0,
      );
    };
    await drag('Id', 'Chamber', 0.8);
    await page.locator('[data-drop=before]', { hasText: 'Rise' }).waitFor();
    await page.mouse.up();
    await until(labels, (now) => now.join() === 'Name,Chamber m,Id,Rise m,Automatic');
    expect(await page.locator('[aria-sort=ascending], [aria-sort=descending]').count()).toBe(0);
    await page.waitForURL(/columns=name%2Cchamber_m%2Cid/);
    // To the end, and back before it lets go.
    await drag('Name', 'Automatic', 0.9);
    await page.locator('[data-drop=behind]').waitFor();
    await page.keyboard.press('Escape');
    await page.mouse.up();
    expect((await labels())[0]).toBe('Name');
    await drag('Name', 'Automatic', 0.9);
    await page.mouse.up();
    await until(labels, (now) => now.at(-1) === 'Name');
    // A press that is no drag sorts.
    await header('Rise').getByText('Rise').click();
    await page.locator('[aria-sort=ascending]', { hasText: 'Rise' }).waitFor();
  });

  it('keeps how it looks in this browser, and what it shows in the address', async () => {
    await open('both');
    await says('of 64');
    await page.getByRole('button', { name: 'Columns' }).click();
    await page.getByRole('checkbox', { name: 'Rise' }).uncheck();
    await page.keyboard.press('Escape');
    await page.getByRole('searchbox').fill('gate');
    await page.waitForURL(/search=gate/);
    await says(/of \d$/);
    expect(page.url()).not.toContain('columns');
    // Another visit begins with the look, not with the search.
    await open('both');
    await page.reload();
    await says('of 64');
    expect((await labels()).join()).not.toContain('Rise');
    // What somebody sends goes before what is kept here, and is not kept.
    await page.goto(`${served.url}/?columns=id,rise_m#both`);
    await until(labels, (now) => now.join() === 'No.,Rise' || now.join() === 'Id,Rise m');
    await open('stored');
    await page.reload();
    await says('of 64');
    expect((await labels()).join()).not.toContain('Rise');
    // Where nothing can be kept the page does.
    await page.addInitScript(
      "Object.defineProperty(window, 'localStorage', { get: () => { throw new Error('forbidden'); } })",
    );
    await page.reload();
    await says('of 64');
    expect((await labels()).join()).toContain('Rise');
    await page.getByRole('button', { name: 'Columns' }).click();
    await page.getByRole('checkbox', { name: 'Rise' }).uncheck();
    await until(labels, (now) => !now.join().includes('Rise'));
  });
});

describe('a table that is drawn on a server', () => {
  const columns = [{ name: 'id' }, { name: 'name' }, { name: 'canal.name' }];

  it.each(['scroll', 'pages'] as const)(
    'is taken over by the page without asking for its rows again: %s',
    async (reading) => {
      const client = createClient({ url: `${served.url}/api` });
      const rows = await firstRows({ client, table: 'locks', columns, reading });
      // As it crosses the wire.
      const crossed = JSON.parse(JSON.stringify(rows)) as typeof rows;
      const html = renderToString(
        <div style={{ height: '100vh' }}>
          <TableView
            {...{ client: createClient({ url: 'http://127.0.0.1:1' }), table: 'locks', columns }}
            {...{ locale: 'en', timeZone: 'Europe/Paris', reading, initial: crossed }}
          />
        </div>,
      );
      const names = rows.block?.answer.rows.slice(0, 10).map(({ name }) => name as string) ?? [];
      expect(names).toHaveLength(10);
      for (const name of names) expect(html).toContain(name);
      const built = readFileSync(join(served.folder, 'index.html'), 'utf8');
      const first = JSON.stringify({ reading, rows }).replaceAll('<', '\\u003c');
      const body = built.replace(
        '<body>',
        `<body><div id="root">${html}</div><script>window.first = ${first}</script>`,
      );
      await page.route('**/drawn', (route) =>
        route.fulfill({ body, contentType: 'text/html; charset=utf-8' }),
      );
      const asked: string[] = [];
      page.on('request', (request) => asked.push(request.url()));
      await page.goto(`${served.url}/drawn`);
      await says('of 64');
      // The sentence is there, the columns can be changed: it is as any table.
      await header('Name').getByText('Name').click();
      await page.locator('[aria-sort=ascending]').waitFor();
      await says('of 64');
      const questions = asked.filter((url) => url.includes('/api/'));
      expect(questions.filter((url) => !url.includes('/rows'))).toEqual([]);
      const forRows = questions.filter((url) => !url.includes('limit=1&'));
      expect(forRows.map((url) => new URL(url).searchParams.get('sort'))).toEqual(['name']);
    },
  );

  it('is waited for where it is on its way, and asks itself where that fails', async () => {
    let go = (): void => undefined;
    const held = new Promise<void>((resolve) => {
      go = resolve;
    });
    await page.route('**/rows?*', async (route) => {
      await held;
      await route.continue();
    });
    await open('waiting');
    await page.getByText('the book is fetched').waitFor();
    go();
    await says('of 64');
    await page.goto(`${served.url}/?refused#waiting`);
    await says('of 64');
  });
});

describe('a table in a page', () => {
  it('means the days of its own time zone, in conditions and in cells', async () => {
    await open('dated');
    await says('of ');
    await page.getByRole('button', { name: 'Condition on Passed at' }).click();
    const days = page.getByRole('dialog').locator('input[type=date]');
    await days.nth(0).fill('2024-03-05');
    await days.nth(1).fill('2024-03-05');
    await page.getByRole('button', { name: 'Apply' }).click();
    // Midnight there is ten in the morning of the day before in UTC.
    await page.waitForURL(/2024-03-04T10%3A00/);
    await says(/^rows 1–/);
    const found = await page.locator('.eph-row > [aria-colindex="2"]').allTextContents();
    expect(found.length).toBeGreaterThan(1);
    expect(new Set(found.map((day) => day.split(',')[0]))).toEqual(new Set(['Mar 5']));
    const shown = async (zone: string): Promise<string[]> => {
      await page.goto(`${served.url}/?${zone}#zoned`);
      await says('of ');
      return page.locator('.eph-row > [aria-colindex="2"]').allTextContents();
    };
    const [utc, there] = [await shown('UTC'), await shown('Asia/Tokyo')];
    expect(there).not.toEqual(utc);
  });

  it('begins nothing again for what is made anew at every drawing', async () => {
    await open('inline');
    await says('of ');
    await page.locator('.row-0').first().waitFor();
    // The block that comes next is there as well.
    await page.getByRole('grid').evaluate((grid) => grid.scrollTo(0, 34 * 120));
    await says('rows 121–');
    await page.locator('[role=grid][aria-busy=false]').waitFor();
    const asked: string[] = [];
    page.on('request', (request) => asked.push(request.url()));
    await page.getByRole('grid').evaluate((grid) => grid.scrollTo(0, 34 * 20));
    for (const drawing of [1, 2, 3]) {
      await page.evaluate('window.again()');
      await page.locator(`.row-${drawing}`).first().waitFor();
    }
    expect(asked).toEqual([]);
    await says('rows 21–');
    await page.locator('.eph-row').nth(5).click();
    // The callback of the last drawing, not of the first.
    expect(await logged()).toContain(3);
  });

  it('shows rows in a parent that has no height, not all of them', async () => {
    await open('bare');
    await says('of ');
    const box = await page.getByRole('grid').boundingBox();
    expect(box?.height).toBeGreaterThan(200);
    expect(box?.height).toBeLessThan(700);
    expect(await page.locator('.eph-row').count()).toBeLessThan(40);
    await page.getByText('below').waitFor();
  });

  it('has others beside it: keys, choices and search are its own', async () => {
    await open('two');
    const [left, right] = [page.locator('section').nth(0), page.locator('section').nth(1)];
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
    for (const key of ['ArrowDown', 'ArrowDown']) await page.keyboard.press(key);
    expect(await active.getAttribute('aria-rowindex')).toBe(before);
    const ids = await page.locator('[id]').evaluateAll((marked) => marked.map(({ id }) => id));
    expect(new Set(ids).size).toBe(ids.length);
  });

  it('fills its place when a tab that was hidden is shown', async () => {
    await open('hidden');
    await page.getByText('first', { exact: true }).waitFor();
    await page.getByRole('button', { name: 'second' }).click();
    await says('of ');
    await until(
      () => page.locator('.eph-row').count(),
      (count) => count > 12,
    );
    const grid = await page.getByRole('grid').boundingBox();
    const rows = await page
      .locator('.eph-row')
      .evaluateAll((all) => all.map((row) => row.getBoundingClientRect().bottom));
    expect(Math.max(...rows)).toBeGreaterThanOrEqual((grid?.y ?? 0) + (grid?.height ?? 0) - 2);
  });

  it('goes to every row in a page that is zoomed', async () => {
    // A browser's zoom of 150 %: as many px fewer, each as much larger.
    const zoomed = await browser.newContext({
      viewport: { width: 853, height: 533 },
      deviceScaleFactor: 1.5,
    });
    const large = await zoomed.newPage();
    await large.goto(`${served.url}/?#inline`);
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
