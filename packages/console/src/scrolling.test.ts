import { freshDatabase, testDatabases } from '../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../../service/src/testing/service.ts';
import {
  cells,
  consoleFolder,
  drawn,
  grid,
  loaded,
  open,
  page,
  position,
  says,
  until,
  consoleOver,
} from './testing/fixtures.ts';

const { lowmere, passages } = testDatabases();
const configuration = 'tables: { passages: { sort: -passed_at } }';

consoleOver(() => startService(lowmere, configuration, { consoleFolder }));

describe('continuous scrolling', () => {
  it('goes over the whole length with only the rows looked at', async () => {
    let fetched = 0;
    page.on('response', async (response) => {
      if (!response.url().includes('/rows?') || !response.ok()) return;
      const { rows } = (await response.json()) as { rows: unknown[] };
      fetched += rows.length;
    });
    await open('/tables/passages');
    await page.getByRole('button', { name: '50 per page' }).click();
    await page.getByRole('radio', { name: 'Continuous scroll' }).click();
    await says(/^Rows 1–\d+ of 20,000$/);
    const height = await grid().evaluate((element) => element.scrollHeight);
    expect(height).toBeGreaterThanOrEqual(passages * 34);
    for (const share of [0.25, 0.5, 0.75, 1]) {
      await grid().evaluate((element, part) => {
        element.scrollTop = element.scrollHeight * part;
      }, share);
      await drawn();
      await loaded();
    }
    await says(/^Rows 19,9\d\d–20,000 of 20,000$/);
    const numbers = await cells('Id');
    expect(numbers.at(-1)).toMatch(/^\d+$/);
    expect(numbers.length).toBeLessThan(50);
    await until(() => page.locator('.eph-row').last().getAttribute('aria-rowindex'), '20001');
    // Five places were looked at, each within two blocks of a hundred rows and one ahead, and one
    // page before.
    expect(fetched).toBeGreaterThan(0);
    expect(fetched).toBeLessThanOrEqual(50 + 5 * 300);
    expect(fetched).toBeLessThan(passages / 10);
  });

  it('keeps its place in the address', async () => {
    await open('/tables/passages?reading=scroll');
    await loaded();
    await grid().evaluate((element) => {
      element.scrollTop = 10_000 * 34;
    });
    await until(() => Promise.resolve(page.url()), /offset=10000/);
    await page.reload();
    await says(/^Rows 10,001–/);
    await loaded();
    expect((await cells('Id')).every((text) => text !== '')).toBe(true);
  });

  it('is walked with the keys of a grid', async () => {
    await open('/tables/passages?reading=scroll');
    await loaded();
    await grid().focus();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('ArrowRight');
    const active = async (): Promise<string | null> => {
      const id = await grid().getAttribute('aria-activedescendant');
      return page.locator(`[id="${id ?? ''}"]`).evaluate((cell) => {
        return `${cell.parentElement?.getAttribute('aria-rowindex') ?? ''}/${cell.getAttribute('aria-colindex') ?? ''}`;
      });
    };
    expect(await active()).toBe('3/2');
    await page.keyboard.press('Control+End');
    await says(/–20,000 of 20,000$/);
    await until(active, /^20001\/\d+$/);
    await page.keyboard.press('Control+Home');
    await says(/^Rows 1–/);
    await until(active, '2/1');
  });
});

describe('a million rows, past what a browser can bear in height', () => {
  const rows = 1_000_000;
  let service: TestService;
  let drop: () => Promise<void>;

  beforeAll(async () => {
    const long = await freshDatabase('ephoros_long', [
      'create table long (id int primary key, half int not null)',
      `insert into long select n, n / 2 from generate_series(1, ${rows}) n`,
      'vacuum analyze long',
    ]);
    ({ drop } = long);
    service = await startService(long.url, '', { consoleFolder });
  });

  afterAll(async () => {
    await service.close();
    await drop();
  });

  beforeEach(async () => {
    await page.goto(`${service.url}/tables/long?reading=scroll`);
    await says(/ of 1,000,000$/);
    await loaded();
  });

  /** The rows that stand in the page, whose ids are their numbers: checked, and given back. */
  async function numbers(): Promise<number[]> {
    await loaded();
    const found = await page.locator('.eph-row').evaluateAll((elements) =>
      elements.map((element) => ({
        row: Number(element.getAttribute('aria-rowindex')) - 1,
        id: Number(element.querySelector('[aria-colindex="2"]')?.textContent),
      })),
    );
    for (const { row, id } of found) expect(id).toBe(row);
    // While the view moves, rows stand in the page in another order than they are visible in.
    return found.map(({ id }) => id).sort((one, other) => one - other);
  }

  /** The first row that is wholly visible, from 1. */
  async function firstSeen(): Promise<number> {
    const text = (await position().textContent()) ?? '';
    return Number(/Rows ([\d,]+)/.exec(text)?.[1]?.replaceAll(',', ''));
  }

  const active = (): Promise<string | null> =>
    page.locator('.eph-row[data-active=true]').first().getAttribute('aria-rowindex');

  it('are gone to by number, and walked by arrows, pages, home and end from there', async () => {
    await page.getByLabel('Go to row').fill('654,321');
    await page.keyboard.press('Enter');
    await says(/^Rows 654,321–/);
    expect(await numbers()).toContain(654_321);
    expect(await active()).toBe('654322');
    await page.keyboard.press('ArrowDown');
    expect(await active()).toBe('654323');
    for (let n = 0; n < 3; n += 1) await page.keyboard.press('ArrowUp');
    expect(await active()).toBe('654320');
    expect(await firstSeen()).toBe(654_319);
    await page.keyboard.press('PageDown');
    await page.keyboard.press('PageDown');
    const paged = Number(await active()) - 654_320;
    expect(paged).toBeGreaterThan(20);
    expect(paged).toBeLessThan(50);
    await page.keyboard.press('Control+End');
    await says(/–1,000,000 of 1,000,000$/);
    expect((await numbers()).at(-1)).toBe(rows);
    expect(await active()).toBe('1000001');
    await page.keyboard.press('Control+Home');
    await says(/^Rows 1–/);
    expect((await numbers())[0]).toBe(1);
  });

  it('are turned one by one with the wheel, anywhere', async () => {
    await page.getByLabel('Go to row').fill('500000');
    await page.keyboard.press('Enter');
    await says(/^Rows 500,000–/);
    await grid().hover();
    for (let n = 1; n <= 5; n += 1) {
      await page.mouse.wheel(0, 34);
      await says(new RegExp(`^Rows ${(500_000 + n).toLocaleString('en-GB')}–`));
    }
    await numbers();
    await page.mouse.wheel(0, -34 * 7);
    await says(/^Rows 499,998–/);
    // To the very beginning from near it, and not past it.
    await page.getByLabel('Go to row').fill('4');
    await page.keyboard.press('Enter');
    await page.mouse.wheel(0, -34);
    await says(/^Rows 3–/);
    await page.mouse.wheel(0, -34 * 30);
    await says(/^Rows 1–/);
    await page.getByLabel('Go to row').fill('999990');
    await page.keyboard.press('Enter');
    await page.mouse.wheel(0, 34 * 30);
    await says(/–1,000,000 of 1,000,000$/);
  });

  it('stay where the bar is dragged to, however far the wheel was turned before', async () => {
    await grid().hover();
    const turnedWhileDragged = grid().evaluate(async (element) => {
      const frame = (): Promise<unknown> =>
        new Promise((visibleRange) => requestAnimationFrame(visibleRange));
      const far = { deltaY: 34 * 100_000, bubbles: true, cancelable: true };
      element.dispatchEvent(new WheelEvent('wheel', far));
      await frame();
      await frame();
      const moved = element.scrollTop;
      element.scrollTop = element.scrollHeight / 2;
      return moved;
    });
    expect(await turnedWhileDragged).toBeGreaterThan(0);
    const thousands = async (): Promise<string> => String(Math.round((await firstSeen()) / 1_000));
    await until(thousands, '500');
    // Rows come at rest only: by then all of the wheel would be gone.
    await numbers();
    expect(await thousands()).toBe('500');
  });

  it('are marked below the pointer at rest, and none while they pass by', async () => {
    await page.getByLabel('Go to row').fill('600000');
    await page.keyboard.press('Enter');
    await says(/^Rows 600,000–/);
    await grid().hover();
    const under = (): Promise<string> =>
      page.evaluate(() => {
        const row = document.querySelector('.eph-row:hover');
        const marked = [...document.querySelectorAll('.eph-row[data-over]')];
        return `${marked.length} ${row !== null && marked[0] === row}`;
      });
    await until(under, '1 true');
    // Looked at as the rows move, before anything else happens.
    const watched = await page.evaluateHandle(() => {
      const observed = { moves: 0, marked: 0 };
      const layer = document.querySelector('.eph-rows');
      const observer = new MutationObserver(() => {
        observed.moves += 1;
        observed.marked += document.querySelectorAll('.eph-row[data-over]').length;
      });
      if (layer !== null) observer.observe(layer, { attributeFilter: ['style'] });
      return observed;
    });
    await page.mouse.wheel(0, 340);
    await says(/^Rows 600,010–/);
    const { moves, marked } = await watched.jsonValue();
    expect([moves > 0, marked]).toEqual([true, 0]);
    await until(under, '1 true');
    await page.mouse.move(2, 2);
    await until(under, '0 false');
  });

  it('pass by in the same elements: none is taken out and made again', async () => {
    await page.getByLabel('Go to row').fill('700000');
    await page.keyboard.press('Enter');
    await says(/^Rows 700,000–/);
    await numbers();
    const before = await page.locator('.eph-row').elementHandles();
    await grid().hover();
    // By parts of rows: so many rows are in view, and one more, and so many again.
    for (let turn = 1; turn <= 20; turn += 1) await page.mouse.wheel(0, 51);
    await says(/^Rows 700,030–/);
    await numbers();
    const stays = await Promise.all(before.map((row) => row.evaluate((one) => one.isConnected)));
    expect(new Set(stays)).toEqual(new Set([true]));
    expect(await page.locator('.eph-row').count()).toBe(before.length);
    // At rest they stand in the order in which they are read aloud.
    const inOrder = (): Promise<string> =>
      page.evaluate(() => {
        const rows = [...document.querySelectorAll('.eph-row')];
        const places = rows.map((row) => Number(row.getAttribute('aria-rowindex')));
        return String(places.every((place, index) => place === (places[0] ?? 0) + index));
      });
    await until(inOrder, 'true');
  });

  it('are dragged to by the bar and by the ruler, which says where one is', async () => {
    await grid().evaluate((element) => {
      element.scrollTop = element.scrollHeight / 2;
    });
    await until(async () => String(Math.round((await firstSeen()) / 1_000)), '500');
    expect((await numbers()).length).toBeLessThan(60);
    const strip = page.locator('.eph-ruler');
    await until(() => strip.locator('.eph-ruler-mark').nth(3).textContent(), /000/);
    const { x, y, height } = (await strip.boundingBox()) ?? { x: 0, y: 0, height: 0 };
    await page.mouse.move(x + 20, y + 20);
    await page.mouse.down();
    await page.mouse.move(x + 20, y + height / 4, { steps: 4 });
    await until(
      () => page.locator('.eph-ruler-label').textContent(),
      /^Row 2[45]\d,\d{3} · 2[45]\d{4}$/,
    );
    await page.mouse.up();
    const there = await firstSeen();
    expect(Math.abs(there - rows / 4)).toBeLessThan(rows / 100);
    await numbers();
    expect(await page.locator('.eph-ruler-label').count()).toBe(0);
  });

  it('fly by as bars, with nothing to read of the rows before, and are filled at once at rest', async () => {
    // What is not there yet stays on its way.
    await page.route(/\/rows\?/, () => undefined);
    const looks = await grid().evaluate(async (element) => {
      const frame = (): Promise<unknown> =>
        new Promise((observe) => requestAnimationFrame(observe));
      const read = (): string[] =>
        [...element.querySelectorAll<HTMLElement>('.eph-row')].map((row) => row.innerText.trim());
      const visible: string[][] = [];
      for (const share of [0.2, 0.5, 0.8, 0.3]) {
        element.scrollTop = share * element.scrollHeight;
        await frame();
        await frame();
        visible.push(read());
      }
      return visible;
    });
    expect(looks.flat().join('')).toBe('');
    expect(looks[0]?.length).toBeGreaterThan(10);
    // At rest nothing of them is even hidden there.
    await until(async () => String(await page.locator('.eph-row span').count()), '0');
    // Back where they are known, they are there.
    await grid().evaluate((element) => element.scrollTo({ top: 0 }));
    await loaded();
    expect((await numbers()).slice(0, 3)).toEqual([1, 2, 3]);
  });

  it('are one layer of the browser, whatever is pinned: a layer for each would cost every frame', async () => {
    const session = await page.context().newCDPSession(page);
    const layers = new Promise<number>((notify) => {
      session.on('LayerTree.layerTreeDidChange', ({ layers = [] }) => {
        if (layers.length > 0) notify(layers.length);
      });
    });
    await session.send('LayerTree.enable');
    await grid().evaluate((element) => (element.scrollTop = 5_000));
    expect(await layers).toBeLessThan(await page.locator('.eph-row').count());
    await session.detach();
  });

  it('are counted about first, and stay where they are when the number is known', async () => {
    let release = (): void => undefined;
    const held = new Promise<void>((resolve) => (release = resolve));
    await page.route(/total=exact/, async (route) => {
      await held;
      await route.continue();
    });
    await page.goto(`${service.url}/tables/long?reading=scroll&filter=half%20%3E%201000`);
    await says(/ of about 99\d,\d{3}$/);
    await page.getByLabel('Go to row').fill('777777');
    await page.keyboard.press('Enter');
    await says(/^Rows 777,777–.* of about/);
    await loaded();
    const texts = async (): Promise<string[]> =>
      (await page.locator('.eph-row').allTextContents()).sort();
    const before = await texts();
    release();
    await says(/^Rows 777,777–.* of 997,999$/);
    expect(await texts()).toEqual(before);
  });

  it('have a page after each, and no last one, where nobody counts', async () => {
    await page.goto(`${service.url}/tables/long?total=none&page=3`);
    await says('Rows 101–150, more follow');
    expect(await page.getByRole('button', { name: 'Last' }).count()).toBe(0);
    await page.getByRole('button', { name: 'Next' }).click();
    await says('Rows 151–200, more follow');
    await page.getByRole('button', { name: /50 per page, count: off/ }).click();
    await page.getByRole('radio', { name: 'Exact' }).click();
    await says('Rows 151–200 of 1,000,000');
  });
});

describe('a service that goes away and comes back', () => {
  it('is requested again by itself, and the rows come', async () => {
    const first = await startService(lowmere, configuration, { consoleFolder });
    const port = Number(new URL(first.url).port);
    await page.goto(`${first.url}/tables/passages?reading=scroll`);
    await says(/ of 20,000$/);
    await loaded();
    await first.close();
    await page.getByLabel('Go to row').fill('9000');
    await page.keyboard.press('Enter');
    await page.getByText(/cannot be reached.*Trying again/).waitFor();
    await says(/^Rows 9,000–/);
    const again = await startService(lowmere, configuration, { consoleFolder, port });
    try {
      await loaded();
      await page.getByRole('alert').waitFor({ state: 'detached' });
      await until(async () => String((await cells('Id')).every((text) => text !== '')), 'true');
    } finally {
      await again.close();
    }
  });
});
