import type { Locator } from 'playwright-core';
import { until } from '../../../core/src/testing/until.ts';
import { ownPages } from '../testing/own-pages.ts';
import { hold } from '../../../../examples/fixtures.ts';
import { tableTests } from '../testing/table-tests.ts';

const at = tableTests('own-table', ownPages);
const { open, says, logged } = at;

afterEach(() => expect(at.complaints).toEqual([]));

const cell = (row: number, column: number): Locator =>
  at.page.locator(`.eph-row[aria-rowindex="${row + 1}"] > [aria-colindex="${column}"]`);
const header = (name: string): Locator => at.page.getByRole('columnheader', { name });
const labels = (): Promise<string[]> => at.page.locator('.eph-head-label').allTextContents();
const width = async (place: Locator): Promise<number> => (await place.boundingBox())?.width ?? 0;

describe('a table that a page makes its own', () => {
  it('shows which cell of which row was pressed, not what acts for itself', async () => {
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
    await at.page.evaluate('window.log.length = 0');
    await at.page.getByRole('grid').focus();
    for (const key of ['Home', 'Control+Home', 'ArrowRight', 'Enter'])
      await at.page.keyboard.press(key);
    expect(await logged()).toEqual([expect.stringMatching(/^row \d+ name keydown$/)]);
  });

  it('has classes of rows and cells, and names for values', async () => {
    await open('classes');
    await says('of 64');
    const shown = await at.page.locator('.eph-row').evaluateAll((rows) =>
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
    await at.page.getByRole('button', { name: 'Filter Automatic' }).click();
    await at.page.getByRole('radio', { name: 'by hand' }).check();
    await at.page.getByRole('button', { name: 'Apply' }).click();
    await says(/of (?!64)/);
    expect(await at.page.getByTestId('sentence').textContent()).toContain('by hand');
    expect(await at.page.locator('.eph-row:not(.manned)').count()).toBe(0);
  });

  it('finds values by what they are called, and asks for them by what they are', async () => {
    await open('named');
    await says('of ');
    await at.page.getByRole('button', { name: 'Filter Direction' }).click();
    await at.page.getByRole('searchbox', { name: 'Search values' }).fill('UPSTREAM');
    await at.page.getByRole('checkbox', { name: /^upstream/ }).check();
    expect(await at.page.getByRole('checkbox', { name: /downstream/ }).count()).toBe(0);
    await at.page.getByRole('button', { name: 'Apply' }).click();
    await at.page.waitForURL(/filter=direction[^&]*%27up%27/);
    await says(/of (?!20,000)/);
    expect(
      new Set(await at.page.locator('.eph-row > [aria-colindex="2"]').allTextContents()),
    ).toEqual(new Set(['upstream']));
  });

  it('says in its own words why there are no rows', async () => {
    await at.page.addInitScript('window.fails = true');
    await open('instead');
    await at.page.getByText('oh: the shelf is locked').waitFor();
    await at.page.getByRole('button', { name: 'once more' }).click();
    await says('of 64');
    await at.page.getByRole('searchbox').fill('zzz nothing');
    await at.page.getByText('no such lock').waitFor();
    await open('empty');
    await at.page.reload();
    await at.page.getByText('an empty shelf').waitFor();
    expect(await at.page.locator('.eph-note-title').count()).toBe(0);
  });

  it('waits in its own words', async () => {
    const go = await hold(at.page, '**/rows?*');
    await open('instead');
    await at.page.getByText('fetching the book').waitFor();
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
    await at.page.mouse.move(grip.x + 4, grip.y + 10);
    await at.page.mouse.down();
    await at.page.mouse.move(grip.x - usual + 80, grip.y + 10);
    await at.page.mouse.up();
    const cutOff = (): Promise<number> =>
      at.page
        .locator('.eph-row > [aria-colindex="2"] > *')
        .evaluateAll((all) => all.filter((one) => one.scrollWidth > one.clientWidth + 1).length);
    expect(await cutOff()).toBeGreaterThan(3);
    await header('Name').locator('.eph-grip').dblclick();
    await until(cutOff, (count) => count === 0);
    expect(await width(header('Name'))).toBeLessThan(usual + 40);
    // Narrow values, long label: the label has room.
    await at.page.evaluate('window.fit(["chamber_m", "id"])');
    await until(
      () => at.page.evaluate<string>('location.search'),
      (search) => /widths=.*chamber_m/.test(search),
    );
    const cut = await header('Chamber')
      .locator('.eph-head-text')
      .evaluate((text) => text.scrollWidth - text.clientWidth);
    expect(cut).toBeLessThanOrEqual(0);
    expect(await width(header('Id'))).toBeLessThan(90);
    await at.page.getByRole('button', { name: 'Filter Rise' }).click();
    await at.page.getByText('Position and width').click();
    await at.page.getByRole('button', { name: 'Fit to content' }).click();
    await at.page.waitForURL(/widths=.*rise_m/);

    await at.page.goto(`${at.served.url}/?fitted#fitted`);
    await says('of 64');
    await until(
      () => width(header('Id')),
      (now) => now < 75,
    );
    expect(await cutOff()).toBe(0);
    // What nobody has chosen is no part of the view.
    expect(at.page.url()).not.toContain('widths');
  });

  it('has its columns moved by their headers, which sort nothing then', async () => {
    await open('fitted');
    await says('of 64');
    const drag = async (name: string, onto: string, part: number): Promise<void> => {
      const [from, to] = [await header(name).boundingBox(), await header(onto).boundingBox()];
      if (from === null || to === null) throw new Error('no header');
      await at.page.mouse.move(from.x + 20, from.y + 20);
      await at.page.mouse.down();
      await at.page.mouse.move(from.x + 40, from.y + 20);
      // What follows the pointer is loaded with the first press.
      await until(
        async () => {
          await at.page.mouse.move(to.x + to.width * part, to.y + 20, { steps: 3 });
          return at.page.locator('[data-dragging=true]').count();
        },
        (count) => count > 0,
      );
    };
    await drag('Id', 'Chamber', 0.8);
    await at.page.locator('[data-drop=before]', { hasText: 'Rise' }).waitFor();
    await at.page.mouse.up();
    await until(labels, (now) => now.join() === 'Name,Chamber m,Id,Rise m,Automatic');
    expect(await at.page.locator('[aria-sort=ascending], [aria-sort=descending]').count()).toBe(0);
    await at.page.waitForURL(/columns=name%2Cchamber_m%2Cid/);
    // To the end, and back before it lets go.
    await drag('Name', 'Automatic', 0.9);
    await at.page.locator('[data-drop=behind]').waitFor();
    await at.page.keyboard.press('Escape');
    await at.page.mouse.up();
    expect((await labels())[0]).toBe('Name');
    await drag('Name', 'Automatic', 0.9);
    await at.page.mouse.up();
    await until(labels, (now) => now.at(-1) === 'Name');
    // A press that is no drag sorts.
    await header('Rise').getByText('Rise').click();
    await at.page.locator('[aria-sort=ascending]', { hasText: 'Rise' }).waitFor();
  });

  it('keeps how it looks in this browser, and what it shows in the address', async () => {
    await open('both');
    await says('of 64');
    await at.page.getByRole('button', { name: 'Columns' }).click();
    await at.page.getByRole('checkbox', { name: 'Rise' }).uncheck();
    await at.page.keyboard.press('Escape');
    await at.page.getByRole('searchbox').fill('gate');
    await at.page.waitForURL(/search=gate/);
    await says(/of \d$/);
    expect(at.page.url()).not.toContain('columns');
    // Another visit begins with the look, not with the search.
    await open('both');
    await at.page.reload();
    await says('of 64');
    expect((await labels()).join()).not.toContain('Rise');
    // What somebody sends goes before what is cached here, and is not stored.
    await at.page.goto(`${at.served.url}/?columns=id,rise_m#both`);
    await until(labels, (now) => now.join() === 'No.,Rise' || now.join() === 'Id,Rise m');
    await open('stored');
    await at.page.reload();
    await says('of 64');
    expect((await labels()).join()).not.toContain('Rise');
    // Where nothing can be stored the page does.
    await at.page.addInitScript(
      "Object.defineProperty(window, 'localStorage', { get: () => { throw new Error('forbidden'); } })",
    );
    await at.page.reload();
    await says('of 64');
    expect((await labels()).join()).toContain('Rise');
    await at.page.getByRole('button', { name: 'Columns' }).click();
    await at.page.getByRole('checkbox', { name: 'Rise' }).uncheck();
    await until(labels, (now) => !now.join().includes('Rise'));
  });
});
