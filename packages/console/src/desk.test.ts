import { addressSays, button, deskOver, dialog, parameter } from './testing/desk.ts';
import { cells, grid, loaded, open, page, says, until } from './testing/fixtures.ts';

deskOver('console_desk');

describe('the columns of a reader', () => {
  const shown = (name: RegExp): ReturnType<typeof page.locator> =>
    dialog().getByRole('button', { name });

  it('are hidden, moved by keys, stored at the end, taken from related rows, and put back', async () => {
    await open('/tables/berths');
    await loaded();
    await button('Columns').click();
    await dialog().getByLabel('Note', { exact: true }).click();
    await addressSays('columns', 'id,name,quay.name,fee,state,opened');
    await shown(/^Id, 1 of 6/).press('Shift+ArrowDown');
    await addressSays('columns', /^name,id/);
    // What was moved keeps the keyboard.
    await page.keyboard.press('Shift+ArrowDown');
    await addressSays('columns', /^name,quay\.name,id/);
    await shown(/^Pin State to end/).click();
    await addressSays('pinned-end', 'state');
    await dialog().getByLabel('Search columns').fill('quay id');
    await dialog().locator('.eph-branch').getByText(/id$/i).first().click();
    await addressSays('columns', /quay\.id$/);
    await dialog().getByText('Reset appearance').click();
    await addressSays('columns', '');
    expect(parameter('pinned-end')).toBeNull();
    expect(await dialog().getByText('Reset appearance').isDisabled()).toBe(true);
  });

  it.each(['en', 'ar'])('stay in view on both sides, on the way and at rest (%s)', async (lang) => {
    await page.setViewportSize({ width: 700, height: 500 });
    await page.addInitScript(
      (language) => localStorage.setItem('ephoros.preferences', JSON.stringify({ language })),
      lang,
    );
    await open('/tables/berths?pinned=name&pinned-end=state');
    await loaded();
    interface Places {
      readonly head: number[];
      readonly row: number[];
      readonly moving: boolean;
    }
    /** Where the pinned cells of the header and of a row begin, after the frame of a movement. */
    const places = (left: number | null = null): Promise<Places> =>
      grid().evaluate(async (element, to) => {
        if (to !== null) {
          element.scrollTo({ left: to });
          await new Promise((visibleRange) => requestAnimationFrame(visibleRange));
        }
        const of = (what: string): number[] =>
          [...element.querySelectorAll(`${what} > [data-pinned]`)].map((cell) =>
            Math.round(cell.getBoundingClientRect().left),
          );
        const moving = element.hasAttribute('data-sideways');
        return { head: of('.eph-head-row'), row: of('.eph-row:nth-child(3)'), moving };
      }, left);
    const resting = async (): Promise<string> => {
      const { head, row, moving } = await places();
      return String(!moving && head.join() === row.join());
    };
    const before = await places();
    expect(before.head).toHaveLength(3);
    expect(before).toEqual({ head: before.head, row: before.head, moving: false });
    const sign = lang === 'ar' ? -1 : 1;
    for (const left of [120, 250, 10_000, 0]) {
      const moved = await places(left * sign);
      expect(moved).toEqual({ head: before.head, row: before.head, moving: true });
      await until(resting, 'true');
      expect((await places()).row).toEqual(before.head);
    }
    // In a narrower view there is more to scroll over.
    await places(100 * sign);
    await page.setViewportSize({ width: 640, height: 500 });
    await until(async () => String((await places()).head.join() !== before.head.join()), 'true');
    await until(resting, 'true');
  });
});

describe('the look of a reader', () => {
  it('sets rows striped, with their numbers, and long text over lines; it is in the address', async () => {
    await open('/tables/berths?page=2');
    await loaded();
    const row = page.locator('.eph-row').first();
    const before = (await row.boundingBox())!.height;
    await button('Appearance').click();
    for (const style of ['Striped rows', 'Row numbers', 'Wrap text (3 lines)']) {
      await dialog().getByText(style).click();
    }
    await addressSays('row-style', 'striped,numbered,wrapped');
    await page.keyboard.press('Escape');
    await until(() => page.locator('.eph-row-number').first().textContent(), '51');
    expect((await row.boundingBox())!.height).toBeGreaterThan(before + 20);
    expect(await page.locator('.eph-row[data-odd]').count()).toBeGreaterThan(3);
    await page.reload();
    await until(() => page.locator('.eph-row-number').first().textContent(), '51');
  });

  it('has the table as high as its rows', async () => {
    await open('/tables/quays?height=content');
    await says('Rows 1–2 of 2');
    const foot = await page.locator('footer.eph-line').boundingBox();
    expect(foot!.y).toBeLessThan(400);
  });
});

describe('paint', () => {
  const toned = (tone: string): Promise<string[]> =>
    page.locator(`.eph-cell[data-tone=${tone}]`).allTextContents();

  it('is the table’s own until a reader has rules of their own', async () => {
    await open('/tables/berths');
    await loaded();
    await page.locator('.eph-cell[data-tone=warn]').first().waitFor();
    expect(new Set(await toned('warn'))).toEqual(new Set(['shut']));
    await button('Appearance').click();
    await button('Add highlight').click();
    const rule = dialog().locator('.eph-rule').last();
    await rule.getByLabel('When').fill('fee >');
    await rule.getByRole('button', { name: 'Add' }).click();
    await rule.getByRole('alert').waitFor();
    await rule.getByLabel('When').fill("fee < 5 AND quay.name = 'North'");
    await rule.getByLabel('Highlight').selectOption('fault');
    await rule.getByLabel('Applies to').selectOption('fee');
    await rule.getByRole('button', { name: 'Add' }).click();
    await addressSays('paint', /"tone":"fault"/);
    await page.locator('.eph-cell[data-tone=fault]').first().waitFor();
    expect(await toned('fault')).toEqual(['2.00']);
    await button('Add bar').click();
    const bar = page.locator('.eph-cell[data-measure=bar]').first();
    await bar.waitFor();
    expect(
      Number(await bar.evaluate((cell) => cell.style.getPropertyValue('--eph-share'))),
    ).toBeCloseTo(1 / 120);
    // It lies within its cell: of its width a share, and 0.4 of a letter's height at either side.
    const share = await bar.evaluate((cell) => {
      const { width } = getComputedStyle(cell, '::after');
      const letter = parseFloat(getComputedStyle(cell).fontSize);
      return parseFloat(width) / (cell.clientWidth - 0.8 * letter);
    });
    expect(share).toBeCloseTo(1 / 120, 3);
    await dialog().getByText("Reset to the table's rules").click();
    await addressSays('paint', '');
  });

  it('that no longer fits paints nothing, says why, and the rows are there', async () => {
    const rules = [
      { bar: 'gone' },
      { when: 'HAS(berths)', tone: 'note' },
      { when: "name = 'Berth 3'", tone: 'good' },
    ];
    await open(`/tables/berths?paint=${encodeURIComponent(JSON.stringify(rules))}`);
    await loaded();
    await page.locator('.eph-row[data-tone=good]').waitFor();
    await button('Appearance').click();
    await dialog().getByRole('alert').nth(1).waitFor();
    expect(await dialog().getByRole('alert').allTextContents()).toEqual([
      'This column no longer exists. The rule has no effect.',
      'This condition reads other rows. The rule has no effect.',
    ]);
  });
});

describe('the ways to read', () => {
  it('has numbers in sets, and the way to the next one', async () => {
    await open('/tables/berths?limit=10&page=2');
    await says('Rows 11–20 of 120');
    const numbers = (): Promise<string[]> => page.locator('.eph-numbers li').allTextContents();
    expect(await numbers()).toEqual(['1', '2', '3', '4', '5']);
    await button('Later pages').click();
    await says('Rows 51–60 of 120');
    expect(await numbers()).toEqual(['6', '7', '8', '9', '10']);
    await button('Back to the start').click();
    await says('Rows 1–10 of 120');
  });

  it('has all rows on one page where one answer has room for them', async () => {
    await open('/tables/berths');
    await says('Rows 1–50 of 120');
    await button('50 per page').click();
    await dialog().getByText('All 120 on one page').click();
    await says('Rows 1–120 of 120');
  });

  it('has more rows below those that are there, when requested', async () => {
    await open('/tables/berths?reading=more&limit=20&columns=id');
    await says(/of 120$/);
    const last = (): Promise<string | null> =>
      grid().evaluate((element) => {
        element.scrollTo({ top: 1e6 });
        const found = [...document.querySelectorAll('.eph-row .eph-cell:nth-child(2)')];
        return found.at(-1)?.textContent ?? null;
      });
    await until(last, '21');
    await button('Load 20 more').click();
    await until(last, '41');
    await addressSays('page', '2');
    await page.reload();
    await until(last, '41');
  });
});

describe('a narrow screen', () => {
  it('has rows as cards, with what is configured first', async () => {
    await page.setViewportSize({ width: 390, height: 800 });
    await open('/tables/berths');
    await says('Rows 1–50 of 120');
    const card = page.locator('.eph-row').first();
    await card.waitFor();
    const fields = await card
      .locator('.eph-cell[data-caption]')
      .evaluateAll((all) =>
        all.map((cell) => [(cell as HTMLElement).dataset.caption, cell.textContent]),
      );
    expect(fields.slice(0, 3)).toEqual([
      ['', 'Berth 2'],
      ['State', 'shut'],
      ['Fee', '1.00'],
    ]);
    expect(await grid().evaluate((element) => element.scrollWidth <= element.clientWidth)).toBe(
      true,
    );
    await page.getByRole('button', { name: 'Open row' }).first().click();
    await page.locator('.eph-card').waitFor();
  });
});

it('prints the whole result, with its header on every sheet', async () => {
  await open('/tables/berths?columns=id,name&filter=id<80');
  await says('Rows 1–50 of 78');
  await page.evaluate(() => {
    window.print = () => document.documentElement.setAttribute('data-printed', '');
  });
  await page.keyboard.press('Control+p');
  await page.locator('[data-printed]').waitFor();
  const sheet = page.locator('.eph-print');
  expect(await sheet.locator('tbody tr').count()).toBe(78);
  expect(await sheet.locator('h1').innerText()).toContain('Berths where fee is above 0');
  await page.emulateMedia({ media: 'print' });
  expect(await sheet.locator('thead').evaluate((head) => getComputedStyle(head).display)).toBe(
    'table-header-group',
  );
  expect(await page.locator('#desk').isVisible()).toBe(false);
  await page.emulateMedia({ media: 'screen' });
  await page.evaluate(() => window.dispatchEvent(new Event('afterprint')));
  await sheet.waitFor({ state: 'detached' });
  await says('Rows 1–50 of 78');
});

describe('Preferences', () => {
  it('are stored: the language, the light, the time zone, the room of rows', async () => {
    await open('/tables/berths?columns=id,opened');
    await loaded();
    const height = async (): Promise<number> =>
      (await page.locator('.eph-row').first().boundingBox())!.height;
    const before = await height();
    expect((await cells('Opened'))[1]).toBe('4 Jan 2024, 05:00');
    await button('Preferences').click();
    await dialog().getByLabel('Time zone').selectOption('Asia/Tokyo');
    await dialog().getByLabel('Row height').selectOption('roomy');
    await dialog().getByLabel('Theme').selectOption('dark');
    await dialog().getByLabel('Language').selectOption('ar');
    await page.getByRole('dialog', { name: 'التفضيلات' }).waitFor();
    await page.keyboard.press('Escape');
    await page.reload();
    await page.locator('html[dir=rtl][lang=ar][data-theme=dark]').waitFor();
    await until(() => page.locator('[data-testid=position]').innerText(), /الصفوف/);
    expect(await height()).toBeGreaterThan(before);
    await page.getByRole('button', { name: 'English' }).click();
    await page.locator('html[dir=ltr][lang=en]').waitFor();
    await until(async () => (await cells('Opened'))[1] ?? '', '4 Jan 2024, 19:00');
  });

  it('that cannot be read are as if there were none', async () => {
    await open('/');
    await page.evaluate(() =>
      localStorage.setItem(
        'ephoros.preferences',
        '{"language":"xx","theme":7,"timeZone":"Nowhere/Else","density":"huge"}',
      ),
    );
    await open('/tables/berths?columns=id,opened');
    await loaded();
    expect((await cells('Opened'))[1]).toBe('4 Jan 2024, 05:00');
  });

  it('have trouble simulated for this window, where the service is started for that', async () => {
    await open('/tables/berths');
    await loaded();
    await button('Preferences').click();
    await dialog().getByLabel('Failing requests (%)').fill('100');
    await page.keyboard.press('Escape');
    await button('Refresh').click();
    await page.getByRole('alert').filter({ hasText: '--simulate' }).waitFor();
    await button('Preferences').click();
    await dialog().getByLabel('Failing requests (%)').fill('');
    await page.keyboard.press('Escape');
    await page.reload();
    await says('Rows 1–50 of 120');
  });
});

describe('two tables', () => {
  it('stand side by side, each with a view of its own in the address', async () => {
    await open('/tables/berths?sort=-fee');
    await loaded();
    await page.getByLabel('Choose the second table').selectOption('quays');
    const second = page.getByRole('region', { name: 'quays' });
    await second.getByRole('grid').waitFor();
    await second.locator('.eph-head-label', { hasText: 'Name' }).click();
    await addressSays('second', 'quays?sort=name');
    expect(parameter('sort')).toBe('-fee');
    await page.reload();
    await until(() => second.getByTestId('sentence').innerText(), /by name/);
    await second.getByRole('button', { name: 'Close this table' }).click();
    await second.waitFor({ state: 'detached' });
    expect(parameter('second')).toBeNull();
  });
});
