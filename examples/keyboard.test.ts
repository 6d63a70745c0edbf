import { testDatabases } from '../demo/src/testing/databases.ts';
import { start } from './fixtures.ts';
import { pageTests } from './page-tests.ts';

const { lowmere, passages } = testDatabases();

const at = pageTests(
  () => start('serve.js', [lowmere]),
  (served) => served.stop(),
);

afterEach(() => expect(at.complaints).toEqual([]));

/** What has the keyboard, as a reader of the screen reports it: its role and its name. */
async function notify(): Promise<string> {
  const marked = await at.page.evaluate(() => {
    const focused = document.activeElement;
    const id = focused?.getAttribute('aria-activedescendant');
    const element = id === null || id === undefined ? focused : document.getElementById(id);
    for (const old of document.querySelectorAll('[data-told]')) old.removeAttribute('data-told');
    element?.setAttribute('data-told', '');
    return element !== null;
  });
  if (!marked) return 'nothing';
  const tree = await at.page.locator('[data-told]').ariaSnapshot();
  return tree.split('\n')[0]?.replace(/^- |:$/g, '') ?? '';
}

async function press(...keys: readonly string[]): Promise<string> {
  for (const key of keys) await at.page.keyboard.press(key);
  return notify();
}

/** Presses a key until something is reported, and returns what was reported on the way. */
async function until(key: string, wanted: RegExp, most = 40): Promise<string[]> {
  const way: string[] = [];
  for (let pressed = 0; pressed < most; pressed += 1) {
    way.push(await press(key));
    if (wanted.test(way.at(-1) ?? '')) return way;
  }
  throw new Error(`${key} leads to no ${String(wanted)}, but to ${way.join(' · ')}`);
}

const rowsThere = (): Promise<void> =>
  at.page
    .locator('.eph-view [role=status]')
    .filter({ hasText: `of ${passages.toLocaleString('en')}` })
    .waitFor();

describe('the keyboard alone', () => {
  it('leads through the phrases, the header, the rows and what cells hold, each reported by its name', async () => {
    await at.page.goto(`${at.served.url}/react-table/`);
    await rowsThere();
    const way = await until('Tab', /^grid/);
    // Everything above the rows is a stop, and is called what is written on it.
    expect(way).toEqual([
      'button "continuous scroll"',
      'button "+ Filter"',
      'button "+ Sort"',
      'button "+ Group"',
      'textbox "Filter"',
      'button "Filter builder"',
      'searchbox "Search"',
      'button "Columns"',
      'button "Chart"',
      'button "Appearance"',
      'grid "Passages"',
    ]);
    expect(await press('ArrowDown', 'ArrowUp')).toMatch(/^columnheader "Select visible rows"/);
    expect(await until('ArrowRight', /Passed at/)).toEqual([
      expect.stringMatching(/^columnheader "Picture/),
      expect.stringMatching(/^columnheader "Boat/),
      expect.stringMatching(/^columnheader "Passed at/),
    ]);
    await press('Enter');
    await at.page.locator('[role=columnheader][aria-sort=ascending]').waitFor();
    // What can be done with a column opens from its header, and gives the keyboard back.
    await press('F2');
    const sheet = at.page.getByRole('dialog', { name: 'Passed at' });
    await sheet.waitFor();
    expect(await sheet.evaluate((dialog) => dialog.contains(document.activeElement))).toBe(true);
    await at.page.keyboard.press('Escape');
    await sheet.waitFor({ state: 'detached' });
    await at.page.getByRole('grid').focus();
    expect(await notify()).toMatch(/^columnheader "Passed at/);
    await at.page.locator('.eph-row .eph-cell', { hasText: /\d{4}/ }).first().waitFor();
    expect(await press('ArrowDown')).toMatch(/^gridcell "[^"]*\d{4}, \d\d:\d\d/);
    // Every cell says what stands in it; pictures have no words.
    expect(await press('ArrowRight')).toMatch(/^gridcell "\w+/);
    const owner = await until('ArrowRight', /@/);
    expect(owner.at(-1)).toMatch(/^gridcell "\S+@\S+"/);
    // Into the cell: its link is followed.
    await at.page.evaluate(() => {
      document.addEventListener('click', (event) => {
        event.preventDefault();
        document.title = (event.target as HTMLAnchorElement).href;
      });
    });
    await press('F2');
    await at.page.waitForFunction(() => /^mailto:\S+@\S+$/.test(document.title));
    // Behind the rows: the foot.
    expect(await press('Tab')).toBe('button "Refresh"');
    // And back to the very cell.
    expect(await press('Shift+Tab')).toMatch(/^gridcell "\S+@\S+"/);
  }, 60_000);

  it('opens and closes groups, and walks their lines', async () => {
    await at.page.goto(`${at.served.url}/react-table/?group=status&columns=status,toll,passed_at`);
    const grid = at.page.getByRole('treegrid');
    await grid.locator('.eph-row.eph-group').nth(2).waitFor();
    await grid.focus();
    const first = await press('ArrowDown');
    expect(first).toMatch(/^gridcell "\w.*[\d,]+/);
    await press('ArrowRight');
    await grid.locator('.eph-row[aria-level="2"] .eph-cell', { hasText: /\w/ }).first().waitFor();
    const row = grid.locator('[aria-rowindex="2"]');
    expect(await row.getAttribute('aria-expanded')).toBe('true');
    await press('ArrowDown');
    expect(await grid.locator('.eph-row[data-active=true]').getAttribute('aria-level')).toBe('2');
    // Out to the group, which closes.
    expect(await press('ArrowLeft')).toBe(first);
    await press('ArrowLeft');
    expect(await row.getAttribute('aria-expanded')).toBe('false');
    expect(await press('ArrowDown')).not.toBe(first);
    expect(await grid.locator('.eph-row[data-active=true]').getAttribute('aria-level')).toBe('1');
  });

  it('sets a condition from the sentence, by what is offered there', async () => {
    await at.page.goto(`${at.served.url}/react-table/`);
    await rowsThere();
    await until('Tab', /"\+ Filter"/);
    await press('Enter');
    const sheet = at.page.getByRole('dialog');
    await sheet.waitFor();
    expect(await notify()).toMatch(/^searchbox "/);
    await at.page.keyboard.type('stat');
    await until('Tab', /^button "Status/);
    await press('Enter');
    await until('Tab', /^checkbox "in dispute/);
    await press('Space');
    await until('Tab', /^button "Apply"/);
    await press('Enter');
    await sheet.waitFor({ state: 'detached' });
    await at.page.getByTestId('sentence').filter({ hasText: 'in dispute' }).waitFor();
    // What was changed is a phrase of its own, and can be come to.
    expect((await until('Tab', /in dispute/)).at(-1)).toMatch(/^button "status is in dispute"/i);
  });
});
