import type { Locator } from 'playwright-core';
import { testDatabases } from '../demo/src/testing/databases.ts';
import { examples, sourcesOf } from './catalogue.ts';
import { start, violations } from './fixtures.ts';
import { pageTests } from './page-tests.ts';

const { lowmere, passages } = testDatabases();
const all = passages.toLocaleString('en');

const at = pageTests(
  () => start('serve.js', [lowmere]),
  (served) => served.stop(),
);

afterEach(() => expect(at.complaints).toEqual([]));

const open = (name: string): Promise<unknown> => at.page.goto(`${at.served.url}/${name}`);
const reads = (locator: Locator, text: string | RegExp): Promise<void> =>
  locator.filter({ hasText: text }).first().waitFor();
const cells = (column: number): Promise<string[]> =>
  at.page.locator(`.eph-row > [aria-colindex="${column}"]`).allTextContents();

describe('the first page', () => {
  it('lists the examples with what each shows, its source and the number of its lines', async () => {
    await open('');
    for (const example of examples) {
      const item = at.page.getByRole('listitem').filter({ hasText: example.title });
      expect(await item.textContent()).toContain(example.shows);
      for (const { path, lines, text } of sourcesOf(example)) {
        expect(await item.textContent()).toContain(`${path}, ${lines} lines`);
        const link = await item.getByRole('link', { name: path }).getAttribute('href');
        const source = await at.page.request.get(new URL(link ?? '', at.page.url()).href);
        expect(source.headers()['content-type']).toContain('text/plain');
        expect(await source.text()).toBe(text);
      }
    }
    await at.page.getByRole('link', { name: 'The finished table' }).click();
    await at.page.waitForURL(/react-table/);
    await reads(at.page.locator('.eph-view [role=status]'), `of ${all}`);
  });

  it.each(['light', 'dark'] as const)(
    'leads to pages that everybody can use, in the %s',
    async (colorScheme) => {
      await at.page.emulateMedia({ colorScheme });
      const there: Readonly<Record<string, string>> = {
        '': 'li',
        'plain-table/': 'td',
        'react-table/': '.eph-row img',
        'react-own-table/': 'td',
        'react-editing/': '.eph-row',
        'local-csv/': '.eph-row',
        'gallery/': '.eph-row',
      };
      for (const [path, shown] of Object.entries(there)) {
        await open(path);
        await at.page.locator(shown).first().waitFor();
        expect([path, await violations(at.page)]).toEqual([path, []]);
      }
    },
    120_000,
  );
});

describe('a plain page with a table and the client', () => {
  it('pages, sorts and filters', async () => {
    await open('plain-table/');
    await reads(
      at.page.locator('output'),
      `page 1 of ${Math.ceil(passages / 20)}, ${passages} rows`,
    );
    await at.page.getByText('Next').click();
    await reads(at.page.locator('output'), 'page 2 of');
    await at.page.getByText('Toll').click();
    await reads(at.page.locator('output'), 'page 1 of');
    const tolls = async (): Promise<number[]> =>
      (await at.page.locator('td:nth-child(4)').allTextContents()).map(Number);
    const rising = await tolls();
    expect(rising).toEqual([...rising].sort((one, other) => one - other));
    await at.page.getByText('Toll').click();
    await at.page.waitForFunction(
      (least) => Number(document.querySelector('td:nth-child(4)')?.textContent) > least,
      rising[0] ?? 0,
    );
    await at.page.getByLabel('Boat').fill('otter');
    await at.page.waitForFunction(() =>
      [...document.querySelectorAll('td:nth-child(3)')].every(({ textContent }) =>
        textContent.includes('Otter'),
      ),
    );
  });
});

describe('an application with a login and the router behind it', () => {
  it('shows each keeper the passages at their own lock, and nothing hidden', async () => {
    const app = await start('own-application/server.js', [], { DATABASE_URL: lowmere });
    try {
      const signIn = async (keeper: string, password: string): Promise<void> => {
        await at.page.goto(`${app.url}/sign-in`);
        await at.page.getByPlaceholder('keeper').fill(keeper);
        await at.page.getByPlaceholder('password').fill(password);
        await at.page.getByRole('button').click();
      };
      expect((await fetch(`${app.url}/records/tables`, { redirect: 'manual' })).status).toBe(302);
      await signIn('rosa', 'wrong');
      expect(at.page.url()).toBe(`${app.url}/sign-in`);

      await signIn('rosa', 'heron');
      await reads(at.page.locator('h1'), /Lock book of rosa, \d+ passages/);
      const header = await at.page.locator('tr').first().locator('td').allTextContents();
      expect(header).toContain('toll');
      expect(header).not.toContain('note');
      const place = header.indexOf('lock_id') + 1;
      const locks = await at.page
        .locator(`tr:not(:first-child) td:nth-child(${place})`)
        .allTextContents();
      expect(new Set(locks)).toEqual(new Set(['3']));
      for (const box of [0, 3]) await at.page.getByRole('checkbox').nth(box).check();
      await at.page.getByRole('button', { name: 'Keep the ticked ones' }).click();
      await reads(at.page.locator('output'), /^2 kept, tolls [\d.]+$|^2 kept, tolls null$/);
      await at.page.locator('tr:nth-child(3) td:nth-child(3)').click();
      await at.page
        .getByRole('dialog')
        .getByText(/^lock\.name: \S/)
        .waitFor();
      await at.page.getByRole('dialog').click();

      const rosas = await at.page.locator('h1').textContent();

      const refused = await at.page.request.get(
        `${app.url}/records/tables/passages/rows?filter=${encodeURIComponent("note = 'x'")}`,
      );
      expect(refused.status()).toBe(400);
      expect(await refused.text()).not.toMatch(/perhaps note|keeper_id/);

      await signIn('emil', 'otter');
      await reads(at.page.locator('h1'), /Lock book of emil, \d+ passages/);
      expect(await at.page.locator('h1').textContent()).not.toBe(rosas);
    } finally {
      await app.stop();
    }
  });
});

describe('a React page with the finished table', () => {
  const status = (): Locator => at.page.locator('.eph-view [role=status]');

  it('shows columns as they are defined, and scrolls through all rows', async () => {
    await open('react-table/');
    await reads(status(), `of ${all}`);
    expect(await at.page.getByRole('columnheader').allTextContents()).toEqual([
      '',
      'Picture○',
      'Boat○',
      'Passed at○',
      'Lock○',
      'Status○',
      'Waited○',
      'Toll○',
      'Draught○',
      'Owner○',
    ]);
    expect(await at.page.locator('.eph-row img').count()).toBeGreaterThan(5);
    expect(await at.page.locator('.eph-row meter').count()).toBeGreaterThan(5);
    expect((await cells(7)).some((text) => /^\d+m$|^\d+h \d+m$/.test(text))).toBe(true);
    expect((await cells(8)).some((text) => text.startsWith('ƒ '))).toBe(true);
    await at.page.getByRole('grid').evaluate((grid) => grid.scrollTo(0, grid.scrollHeight));
    await reads(status(), `–${all} of ${all}`);
    // The pinned ones stay where the others scroll sideways.
    await at.page.getByRole('grid').evaluate((grid) => grid.scrollTo({ left: 10_000 }));
    const [boat, owner] = await Promise.all(
      ['Boat', 'Owner'].map((name) => at.page.getByRole('columnheader', { name }).boundingBox()),
    );
    expect(boat?.x).toBeLessThan(200);
    expect((owner?.x ?? 0) + (owner?.width ?? 0)).toBeLessThanOrEqual(1281);
  });

  it('is used by keyboard alone, as the grid pattern has it', async () => {
    await open('react-table/');
    await reads(status(), `of ${all}`);
    const grid = at.page.getByRole('grid');
    await grid.focus();
    for (const key of ['ArrowDown', 'ArrowRight', 'ArrowRight', 'ArrowRight', 'ArrowUp']) {
      await at.page.keyboard.press(key);
    }
    const active = async (): Promise<string> =>
      at.page.evaluate(() => {
        const id = document.activeElement?.getAttribute('aria-activedescendant') ?? '';
        return document.getElementById(id)?.textContent ?? '';
      });
    expect(await active()).toContain('Passed at');
    await at.page.keyboard.press('Enter');
    await at.page.locator('[role=columnheader][aria-sort=ascending]').waitFor();
    await at.page.keyboard.press('Enter');
    await at.page.locator('[role=columnheader][aria-sort=descending]').waitFor();
    await at.page.keyboard.press('ArrowDown');
    // A row that is still on its way cannot be chosen.
    await at.page.locator('.eph-row .eph-cell[data-active=true]', { hasText: /\S/ }).waitFor();
    await at.page.keyboard.press('Space');
    await at.page.keyboard.press('ArrowDown');
    await at.page.keyboard.press('Space');
    await reads(at.page.locator('.eph-line'), '2 rows of Passages selected');
    expect(await at.page.locator('.eph-row[aria-selected=true]').count()).toBe(2);
    await at.page.keyboard.press('Enter');
    await at.page.locator('dialog').waitFor();
    await at.page.keyboard.press('Control+End');
    await reads(status(), `–${all} of ${all}`);
    // The box in the header speaks of the rows that are in view now: none of them is chosen.
    await at.page.locator('[aria-label="Select visible rows"][aria-checked=false]').waitFor();
    await at.page.locator(`.eph-row[aria-rowindex="${passages + 1}"][aria-busy=false]`).waitFor();
    await at.page.getByLabel('Select visible rows').click();
    await at.page.waitForFunction(
      () => document.querySelectorAll('.eph-row[aria-selected=true]').length > 10,
    );
    await at.page.keyboard.press('Control+Home');
    await reads(status(), 'Rows 1–');
    expect(await at.page.locator('.eph-row[aria-selected=true]').count()).toBe(2);
  });

  it('is narrowed from its header, and says so in the address', async () => {
    await open('react-table/');
    await reads(status(), `of ${all}`);
    await at.page.getByRole('button', { name: 'Filter Status' }).click();
    await at.page.getByLabel('in dispute').check();
    await at.page.getByRole('button', { name: 'Apply' }).click();
    await at.page.waitForURL(/filter=.*disputed/);
    await reads(at.page.locator('.eph-row > [aria-colindex="6"]'), 'in dispute');
    await reads(status(), new RegExp(`^Rows 1–\\d+ of (?!about|${all})`));
    const written = await status().textContent();
    expect(new Set(await cells(6))).toEqual(new Set(['in dispute']));
    await at.page.getByRole('searchbox').fill('zzzz nothing');
    await reads(at.page.locator('.eph-instead'), 'No matching rows.');
    await at.page.getByRole('searchbox').fill('');
    await reads(status(), written ?? '');
    // What was copied from the address shows the same.
    await at.page.reload();
    await reads(status(), written ?? '');
    await at.page.getByRole('button', { name: 'Filter Status' }).click();
    await at.page.getByRole('button', { name: 'Remove' }).click();
    await reads(status(), `of ${all}`);
  });

  it('has its columns hidden, moved, pinned and made wider', async () => {
    await open('react-table/');
    await reads(status(), `of ${all}`);
    const labels = (): Promise<string[]> => at.page.getByRole('columnheader').allTextContents();
    await at.page.getByRole('button', { name: 'Columns' }).click();
    await at.page.getByRole('checkbox', { name: 'Waited' }).uncheck();
    await at.page.getByRole('checkbox', { name: 'Note' }).check();
    await at.page.keyboard.press('Escape');
    expect(await labels()).not.toContain('Waited○');
    expect((await labels()).at(-1)).toBe('Note○');
    await at.page.getByRole('button', { name: 'Filter Lock' }).click();
    await at.page.getByText('Position and width').click();
    await at.page.getByRole('button', { name: 'Move earlier' }).click();
    await at.page.getByRole('button', { name: 'Pin to start', exact: true }).click();
    await at.page.keyboard.press('Escape');
    expect((await labels()).slice(0, 5)).toEqual(['', 'Picture○', 'Boat○', 'Lock○', 'Passed at○']);
    const draught = at.page.getByRole('columnheader', { name: 'Draught' });
    const grip = await draught.locator('.eph-grip').boundingBox();
    if (grip === null) throw new Error('no edge to draw');
    await at.page.mouse.move(grip.x + 4, grip.y + 10);
    await at.page.mouse.down();
    await at.page.mouse.move(grip.x + 504, grip.y + 10);
    await at.page.mouse.up();
    expect((await draught.boundingBox())?.width).toBe(240);
  });

  it('stands in Arabic from right to left, and its arrow keys with it', async () => {
    await open('react-table/?words=ar');
    await reads(status(), 'الصفوف');
    const x = async (name: string): Promise<number> =>
      (await at.page.getByRole('columnheader', { name }).boundingBox())?.x ?? 0;
    expect(await x('Boat')).toBeGreaterThan(await x('Lock'));
    await at.page.getByRole('grid').focus();
    await at.page.keyboard.press('ArrowDown');
    await at.page.keyboard.press('ArrowLeft');
    await at.page.keyboard.press('ArrowLeft');
    const active = at.page.locator('.eph-row .eph-cell[data-active=true]');
    expect(await active.getAttribute('aria-colindex')).toBe('3');
    await at.page.keyboard.press('ArrowRight');
    expect(await active.getAttribute('aria-colindex')).toBe('2');
  });
});

describe("a React page with a table of one's own", () => {
  it('pages, sorts, searches and selects over the hooks', async () => {
    await open('react-own-table/');
    await reads(at.page.locator('output'), /page 1 of \d+, 0 selected/);
    await at.page.getByRole('button', { name: 'Name', exact: true }).click();
    await at.page.locator('th[aria-sort=ascending]').waitFor();
    const names = (): Promise<string[]> => at.page.locator('td:nth-child(2)').allTextContents();
    await at.page.waitForFunction(
      () => !document.querySelector('tbody')?.textContent.includes('…'),
    );
    const first = await names();
    expect(first).toEqual([...first].sort(new Intl.Collator('und').compare));
    await at.page.getByLabel('Select this page').check();
    await reads(at.page.locator('output'), '10 selected');
    await at.page.getByText('Next').click();
    await reads(at.page.locator('output'), /page 2 of \d+, 10 selected/);
    await at.page.getByLabel('Select', { exact: true }).first().check();
    await reads(at.page.locator('output'), '11 selected');
    // The whole page, next to what is selected on the first.
    await at.page.getByLabel('Select this page').check();
    await reads(at.page.locator('output'), '20 selected');
    await at.page.getByLabel('Select this page').uncheck();
    await reads(at.page.locator('output'), '10 selected');
    await at.page.getByPlaceholder('Search').fill('wend');
    await reads(at.page.locator('output'), /page 1 of \d/);
    await at.page.waitForFunction(() =>
      // In the name of the lock, or in that of its canal.
      [...document.querySelectorAll('tbody tr')].every(({ textContent }) =>
        /wend/i.test(textContent),
      ),
    );
    // A row on its card.
    const name = (await names())[0] ?? '';
    await at.page.getByRole('button', { name, exact: true }).click();
    const card = at.page.getByRole('dialog', { name });
    await card.getByRole('heading', { name: 'Amounts' }).waitFor();
    await card.getByRole('button', { name: 'Close', exact: true }).click();
    await card.waitFor({ state: 'detached' });
  });
});

describe('a page over a local file', () => {
  it('shows, sorts and groups it without requesting anybody', async () => {
    const requests: string[] = [];
    at.page.on('request', (request) => requests.push(request.url()));
    await open('local-csv/');
    const status = at.page.locator('.eph-view [role=status]');
    await reads(status, 'of 64');
    await at.page.getByRole('button', { name: 'Page 2' }).click();
    await reads(status, '–64 of 64');
    await at.page.getByRole('columnheader', { name: 'Rise' }).getByText('Rise').click();
    await reads(status, 'Rows 1–');
    const rises = (await cells(3)).map((text) => parseFloat(text)).filter((rise) => !isNaN(rise));
    expect(rises).toEqual([...rises].sort((one, other) => one - other));
    await at.page.getByLabel('by canal').check();
    await at.page.getByRole('treegrid').waitFor();
    await at.page.locator('.eph-mark').first().click();
    await at.page.locator('.eph-row[aria-level="2"]').first().waitFor();
    await at.page.setInputFiles('input[type=file]', {
      name: 'own.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(
        'id,name,canal.name,rise_m,opens_at,automatic\n1,Own Lock,Own Cut,1.5,06:00:00,true\n',
      ),
    });
    await at.page.getByLabel('by canal', { exact: true }).uncheck();
    await reads(at.page.getByRole('grid'), 'Own Lock');
    expect(requests.filter((url) => url.includes('/api'))).toEqual([]);
  });
});

describe('the gallery', () => {
  it('shows each state of a table, made on demand', async () => {
    await open('gallery/');
    const state = (name: string): Locator => at.page.locator(`[id="${name}"] .eph-view`);
    await reads(state('as-usual'), 'of 240');
    await state('loading').locator('[aria-busy=true]').first().waitFor();
    await reads(state('an-empty-table'), 'is empty');
    await reads(state('nothing-matches'), 'No matching rows.');
    await reads(state('refused'), 'Unknown column depth');
    await reads(state('failed'), 'This failure is simulated.');
    await reads(state('away-and-tried-again'), 'The service cannot be reached.');
    await state('painted').locator('[data-tone=fault]').waitFor();
    await state('selected').locator('.eph-row[aria-selected=true]').first().waitFor();
    await reads(state('grouped'), 'Lines 1–3 of 3');
    await state('a-chart').locator('[data-mark]').first().waitFor();
    await state('a-narrow-screen').locator('[data-cards] .eph-row').first().waitFor();
    await reads(state('from-right-to-left'), 'الصفوف');
  });
});
