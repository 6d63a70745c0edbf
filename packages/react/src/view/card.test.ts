import type { Locator } from 'playwright-core';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { cardPages } from '../testing/card-pages.ts';
import { tableTests } from '../testing/table-tests.ts';

const { passages } = testDatabases();
const at = tableTests('card', cardPages);

afterEach(() => expect(at.complaints).toEqual([]));

const row = (number: number): Locator =>
  at.page.locator(`.eph-row[aria-rowindex="${number + 1}"][aria-busy=false]`).first();
const card = (): Locator => at.page.locator('.eph-card').first();
const titled = (title: string): Promise<void> =>
  card().getByRole('heading', { level: 2, name: title, exact: true }).waitFor();
const field = (label: string): Locator =>
  card()
    .locator('.eph-card-field')
    .filter({ has: at.page.locator('dt', { hasText: new RegExp(`^${label}$`) }) });
const press = async (...keys: readonly string[]): Promise<void> => {
  for (const key of keys) await at.page.keyboard.press(key);
};

/** The cell of a row under a header. */
async function cellOf(number: number, column: string): Promise<Locator> {
  await row(number).waitFor();
  const header = at.page.getByRole('columnheader', { name: column }).first();
  const index = await header.getAttribute('aria-colindex');
  return row(number).locator(`[aria-colindex="${index}"]`);
}

const textOf = async (number: number, column: string): Promise<string> =>
  (await cellOf(number, column)).innerText();

describe('a reference', () => {
  it('reads as the name of the row that it leads to, by which it is sorted and looked up', async () => {
    await at.open('rows');
    await at.says(`of ${passages.toLocaleString('en')}`);
    await at.page.getByRole('columnheader', { name: 'Lock' }).getByText('Lock').click();
    await at.page.waitForURL(/sort=lock\.name/);
    await until(
      () => textOf(1, 'Lock'),
      (text) => text === 'Alder Gate',
    );
    // The number is a column like any other.
    await at.page.getByRole('button', { name: 'Columns' }).click();
    await at.page.getByRole('checkbox', { name: 'Lock id' }).click();
    await press('Escape');
    await at.page.waitForURL(/columns=[^&]*lock\.name(,|%2C)lock_id/);
    expect(await textOf(1, 'Lock id')).toMatch(/^\d+$/);
    // The look-up reads the other table, and narrows as one types.
    await at.page.getByRole('button', { name: '+ Filter' }).click();
    const sheet = at.page.getByRole('dialog');
    await sheet.getByRole('button', { name: /^Lock$/ }).click();
    await sheet.getByRole('checkbox').nth(10).waitFor();
    const pending = at.page.waitForRequest(/\/tables\/locks\/rows.*lantern/i);
    await sheet.getByRole('searchbox').fill('lantern l');
    await pending;
    await sheet.getByRole('checkbox', { name: 'Lantern Lock' }).click();
    await sheet.getByRole('button', { name: 'Apply' }).click();
    await at.page.waitForURL(/filter=lock\.name/);
    await at.page.locator('.eph-phrase', { hasText: 'Lantern Lock' }).waitFor();
    await until(
      () => textOf(1, 'Lock'),
      (text) => text === 'Lantern Lock',
    );
  }, 120_000);
});

describe('the card of a row', () => {
  it('is opened by Enter and walked in the order of the table, which keeps its place', async () => {
    await at.open('rows');
    await row(3).waitFor();
    await at.page.getByRole('grid').focus();
    await press('ArrowDown', 'ArrowDown', 'Enter');
    const [first, second, third] = await Promise.all([1, 2, 3].map((one) => textOf(one, 'Id')));
    await titled(second ?? '');
    expect(await card().evaluate((one) => one === document.activeElement)).toBe(true);
    await card().getByRole('button', { name: 'Next' }).click();
    await titled(third ?? '');
    expect(await row(3).getAttribute('class')).toContain('eph-opened');
    for (const title of [second, first]) {
      await card().getByRole('button', { name: 'Previous' }).click();
      await titled(title ?? '');
    }
    expect(await card().getByRole('button', { name: 'Previous' }).isDisabled()).toBe(true);
    await press('Escape');
    await card().waitFor({ state: 'detached' });
    expect(await at.page.getByRole('grid').evaluate((one) => one === document.activeElement)).toBe(
      true,
    );
    // By what stands at the beginning of the row, too.
    await row(3).getByRole('button', { name: 'Open row' }).click();
    await titled(third ?? '');
  }, 120_000);

  it('goes on to the next page', async () => {
    await at.open('paged');
    await row(5).waitFor();
    await row(5).getByRole('button', { name: 'Open row' }).click();
    await titled(await textOf(5, 'Name'));
    await card().getByRole('button', { name: 'Next' }).click();
    await until(
      () => at.page.locator('.eph-row').first().getAttribute('aria-rowindex'),
      (index) => index === '7',
    );
    await titled(await textOf(6, 'Name'));
  });

  it('has all columns in sections, raw and copied on demand', async () => {
    await at.page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
    await at.open('rows', '?sort=id');
    await row(1).getByRole('button', { name: 'Open row' }).click();
    await titled('1');
    // The sections are drawn when the row has come.
    await card().getByRole('heading', { level: 3, name: 'Times' }).waitFor();
    const sections = await card().getByRole('heading', { level: 3 }).allInnerTexts();
    expect(sections).toEqual(['Row', 'References', 'Amounts', 'Times']);
    await field('Passed at').getByRole('button', { name: 'Copy Passed at' }).click();
    await card().getByRole('status').filter({ hasText: 'Passed at copied' }).waitFor();
    const copied = await at.page.evaluate(() => navigator.clipboard.readText());
    expect(copied).toMatch(/^\d{4}-\d\d-\d\dT[\d:]+Z$/);
    await card().getByRole('button', { name: 'Raw values and types' }).click();
    expect(await field('Passed at').locator('.eph-raw').innerText()).toBe(
      `${copied}\npassed_at · timestamp`,
    );
  });

  it('leads to the rows that it refers to, and has them on a slip on hover and on focus', async () => {
    await at.open('rows', '?sort=id');
    await row(1).getByRole('button', { name: 'Open row' }).click();
    const lock = field('Lock id').locator('.eph-related');
    const name = await lock.innerText();
    await lock.hover();
    await at.page.locator('.eph-slip', { hasText: name }).waitFor();
    await at.page.mouse.move(0, 0);
    await at.page.locator('.eph-slip').waitFor({ state: 'detached' });
    await lock.focus();
    await at.page.locator('.eph-slip', { hasText: 'Canal' }).waitFor();
    // The page has no address for it: it is shown here, with a way back.
    await lock.click();
    await titled(name);
    await card().getByRole('button', { name: 'Back' }).click();
    await titled('1');
  });

  it('has the rows that refer to it, by table, counted, as small tables', async () => {
    await at.open('told');
    await titled('Lantern Lock');
    // Links lead where the page says.
    const canal = field('Canal id').getByRole('link');
    expect(await canal.getAttribute('href')).toMatch(/^\/at\/canals\/\d+$/);
    const keepers = card().locator('details', { hasText: 'Keepers' });
    const count = Number(await keepers.locator('.eph-count').innerText());
    await keepers.locator('summary').click();
    const small = keepers.locator('.eph-small-table');
    await small
      .locator('.eph-row[aria-busy=false]')
      .nth(count - 1)
      .waitFor();
    expect(await small.locator('.eph-row').count()).toBe(count);
    // Which lock they have is shown already.
    expect(await small.getByRole('columnheader').allInnerTexts()).toEqual([
      'Id',
      'Name',
      'Since',
      'Languages',
      'Retired',
    ]);
    expect(await keepers.getByRole('link', { name: 'Open all keepers' }).getAttribute('href')).toBe(
      '/all/keepers',
    );
    await card().getByRole('button', { name: 'Close', exact: true }).click();
    await card().waitFor({ state: 'detached' });
    expect(await at.logged()).toEqual(['undefined']);
  });

  it('is drawn as the page wants it', async () => {
    await at.open('drawn');
    await row(1).getByRole('button', { name: 'Open row' }).click();
    const note = card().getByText(/^lock 1 is called Bittern Basin Lock on /);
    await note.waitFor();
    await card().getByRole('button', { name: 'go on' }).click();
    await card()
      .getByText(/^lock 2 is called/)
      .waitFor();
    await card().getByRole('button', { name: 'shut' }).click();
    await card().waitFor({ state: 'detached' });
  });

  it('is folded out under its row, and goes with it', async () => {
    await at.open('under');
    await row(3).getByRole('button', { name: 'Open row' }).click();
    await titled(await textOf(3, 'Name'));
    const below = async (number: number): Promise<number> => {
      const [slip, line] = await Promise.all([card().boundingBox(), row(number).boundingBox()]);
      return Math.round((slip?.y ?? 0) - (line?.y ?? 0) - (line?.height ?? 0));
    };
    expect(await below(3)).toBe(0);
    await at.page.getByRole('grid').evaluate((grid) => grid.scrollTo(0, 60));
    await until(
      () => below(3),
      (gap) => gap === 0,
    );
    // What is pressed in it is no row of the table.
    await card().getByRole('button', { name: 'Next' }).click();
    await titled(await textOf(4, 'Name'));
    expect(await below(4)).toBe(0);
    await press('Escape');
    await card().waitFor({ state: 'detached' });
  });

  it.each([
    ['4711', 'Row 4711 does not exist.'],
    ['x', 'whole number'],
    ['1,2', 'id'],
    ['%', 'id'],
  ])('says what is wrong with the key %s', async (key, message) => {
    await at.open('alone', `?key=${encodeURIComponent(key)}`);
    await card().locator('.eph-trouble', { hasText: message }).waitFor();
    at.complaints.length = 0;
  });

  it('speaks the language of its table', async () => {
    await at.open('arabic');
    await row(1).getByRole('button', { name: 'فتح الصف' }).click();
    await card().getByRole('heading', { level: 3, name: 'المقادير' }).waitFor();
    await card().getByRole('button', { name: 'إغلاق' }).click();
  });
});

const copied = (): Promise<{ text: string; html: string }> =>
  at.page.evaluate(async () => {
    const [item] = await navigator.clipboard.read();
    const of = async (type: string): Promise<string> => (await item?.getType(type))?.text() ?? '';
    return { text: await of('text/plain'), html: await of('text/html') };
  });
const menu = (): Locator => at.page.getByRole('menu');
const choose = (text: string): Promise<void> =>
  menu().getByRole('menuitem', { name: text, exact: true }).click();
const withHeaders = async (): Promise<void> => {
  const item = menu().getByRole('menuitemcheckbox', { name: 'With headers' });
  await item.click();
  expect(await item.getAttribute('aria-checked')).toBe('true');
};

describe('cells', () => {
  beforeEach(() => at.page.context().grantPermissions(['clipboard-read', 'clipboard-write']));

  it('are marked by keys and by drawing, and copied for a spreadsheet', async () => {
    await at.open('rows', '?sort=id&columns=id,passed_at,toll,lock.name,note');
    await row(3).waitFor();
    await at.page.getByRole('grid').focus();
    await press('ArrowDown', 'ArrowRight', 'ArrowRight', 'Shift+ArrowRight', 'Shift+ArrowDown');
    expect(await at.page.locator('.eph-cell[aria-selected=true]').count()).toBe(4);
    await press('Control+c');
    await at.page.locator('.eph-copied', { hasText: '2 rows copied' }).waitFor();
    const { rows } = (await (
      await fetch(
        `${at.served.url}/api/tables/passages/rows?sort=id&limit=2&columns=passed_at,toll`,
      )
    ).json()) as { rows: { passed_at: string; toll: string | null }[] };
    const clock = (text: string): string =>
      new Date(text).toLocaleString('sv-SE', { timeZone: 'Europe/Paris' });
    const lines = rows.map(({ passed_at, toll }) => [clock(passed_at), toll ?? '']);
    expect((await copied()).text).toBe(lines.map((line) => line.join('\t')).join('\n'));
    expect((await copied()).html).toContain(`<td>${lines[0]?.[0]}</td><td>${lines[0]?.[1]}</td>`);
    // An arrow alone marks nothing any more.
    await press('ArrowDown');
    expect(await at.page.locator('.eph-cell[aria-selected=true]').count()).toBe(0);
    await (await cellOf(1, 'Id')).hover();
    await at.page.mouse.down();
    await (await cellOf(3, 'Toll')).hover();
    await at.page.mouse.up();
    expect(await at.page.locator('.eph-cell[aria-selected=true]').count()).toBe(9);
    // Their menu is about all of them.
    await (await cellOf(2, 'Toll')).click({ button: 'right' });
    await withHeaders();
    await choose('Copy marked cells');
    await at.page.locator('.eph-copied', { hasText: '3 rows copied' }).waitFor();
    expect((await copied()).text.split('\n')[0]).toBe('Id\tPassed at\tToll');
    expect((await copied()).text.split('\n')).toHaveLength(4);
  }, 120_000);

  it('are copied from rows that were never loaded, and from those selected', async () => {
    await at.open('rows', '?sort=id&columns=id,toll');
    await at.says(`of ${passages.toLocaleString('en')}`);
    await at.page.getByRole('grid').focus();
    await press('ArrowDown', 'ArrowRight');
    for (let pressed = 0; pressed < 20; pressed += 1) await press('Shift+PageDown');
    await press('Control+c');
    await at.page.locator('.eph-copied', { hasText: /^\d{3} rows copied/ }).waitFor();
    const ids = (await copied()).text.split('\n').map(Number);
    expect(ids).toEqual(ids.map((_, index) => index + 1));
    await press('Control+Shift+End');
    await row(passages).waitFor();
    await press('Control+c');
    await at.page.locator('.eph-copied', { hasText: 'At most 10,000 rows' }).waitFor();
    await press('Control+Home', 'ArrowRight', ' ');
    await at.page.getByTestId('selection').filter({ hasText: '1 row' }).waitFor();
    await at.page.keyboard.press('Shift+F10');
    await withHeaders();
    await choose('Copy selected rows');
    await at.page.locator('.eph-copied', { hasText: '1 row copied' }).waitFor();
    expect((await copied()).text).toMatch(/^Id\tToll\n1\t[\d.]*$/);
  }, 120_000);

  it('have their menu where a finger rests, and none where it moves on', async () => {
    await at.open('rows', '?sort=id&columns=id,toll');
    await row(3).waitFor();
    const box = await (await cellOf(2, 'Toll')).boundingBox();
    const finger = { x: (box?.x ?? 0) + 20, y: (box?.y ?? 0) + 10 };
    const touch = await at.page.context().newCDPSession(at.page);
    const send = (type: 'touchStart' | 'touchMove' | 'touchEnd', by = 0): Promise<unknown> =>
      touch.send('Input.dispatchTouchEvent', {
        type,
        touchPoints: type === 'touchEnd' ? [] : [{ x: finger.x, y: finger.y + by }],
      });
    await send('touchStart');
    await send('touchMove', 40);
    await send('touchEnd');
    await send('touchStart');
    await send('touchMove', 3);
    await menu().waitFor();
    await send('touchEnd');
    expect(await menu().count()).toBe(1);
    await choose('Copy row');
    await at.page.locator('.eph-copied', { hasText: '1 row copied' }).waitFor();
    expect((await copied()).text).toBe([await textOf(2, 'Id'), await textOf(2, 'Toll')].join('\t'));
  }, 120_000);

  it('offer conditions on what they hold, by right click and key', async () => {
    await at.open('rows', '?sort=id&columns=id,toll,status,keeper.name');
    await row(3).waitFor();
    const status = await textOf(1, 'Status');
    await (await cellOf(1, 'Status')).click({ button: 'right' });
    await choose(`Exclude: Status = ${status}`);
    await at.page.waitForURL(/filter=NOT/);
    await until(
      () => textOf(1, 'Status'),
      (text) => text !== status,
    );
    const other = await textOf(1, 'Status');
    await at.page.getByRole('grid').focus();
    await press('ArrowDown', 'ArrowRight', 'ArrowRight', 'ArrowRight', 'Shift+F10');
    await choose(`Filter: Status = ${other}`);
    await at.page.waitForURL((url) => url.searchParams.get('filter') === `status = '${other}'`);
    // A range has two ends.
    const toll = await textOf(1, 'Toll');
    await (await cellOf(1, 'Toll')).click({ button: 'right' });
    await choose(`Filter: Toll ≥ ${toll}`);
    await at.page.waitForURL(/toll\+%3E%3D/);
    await (await cellOf(1, 'Toll')).click({ button: 'right' });
    await choose(`Filter: Toll ≤ ${toll}`);
    await at.page.waitForURL(/toll\+BETWEEN/);
    await (await cellOf(1, 'Id')).click({ button: 'right' });
    await choose('Open row');
    await card().getByRole('heading', { level: 2 }).waitFor();
  }, 120_000);

  it('leave the menu of the browser where Shift is held', async () => {
    await at.open('rows');
    await row(1).waitFor();
    await (await cellOf(1, 'Lock')).click({ button: 'right', modifiers: ['Shift'] });
    expect(await menu().count()).toBe(0);
  });
});

describe('a header', () => {
  it('has a menu, and all keys are listed on a sheet', async () => {
    await at.open('rows');
    await row(1).waitFor();
    await at.page.getByRole('columnheader', { name: 'Toll' }).click({ button: 'right' });
    await choose('Sort highest first');
    await at.page.waitForURL(/sort=-toll/);
    await at.page.getByRole('columnheader', { name: 'Toll' }).click({ button: 'right' });
    await choose('Hide');
    await at.page.getByRole('columnheader', { name: 'Toll' }).waitFor({ state: 'detached' });
    await at.page.getByRole('grid').focus();
    await press('?');
    const sheet = at.page.getByRole('dialog', { name: 'Keyboard shortcuts' });
    await sheet.getByText('copy the marked cells').waitFor();
    await press('Escape');
    await sheet.waitFor({ state: 'detached' });
    // Also with the focus on no table, and not where it is typed.
    await at.page.evaluate('document.activeElement?.blur()');
    await press('?');
    await sheet.waitFor();
    await press('Escape');
    await sheet.waitFor({ state: 'detached' });
    await at.page.getByRole('searchbox').first().focus();
    await press('?');
    expect(await at.page.getByRole('searchbox').first().inputValue()).toBe('?');
    expect(await sheet.count()).toBe(0);
  });
});
