import { pictures } from '../../../demo/src/index.ts';
import { freshDatabase, perform, testDatabases } from '../../../demo/src/testing/databases.ts';
import { startService } from '../../service/src/testing/service.ts';
import {
  cells,
  consoleFolder,
  loaded,
  open,
  page,
  says,
  sentence,
  service,
  until,
  consoleOver,
} from './testing/fixtures.ts';

const { lowmere } = testDatabases();
const configuration = `
title: Lowmere Navigation
tables:
  passages:
    sort: -passed_at
    columns:
      toll: { label: Toll, format: { kind: money, currency: ƒ, decimals: 2 } }
  boats: { sort: name, columns: { picture: { format: { kind: picture } } } }
`;

consoleOver(() =>
  startService(lowmere, configuration, {
    consoleFolder,
    extraRoutes: { '/demo/boats': pictures() },
  }),
);

describe('the list of tables', () => {
  it('shows what is published and leads to it', async () => {
    await open('/');
    await page.getByRole('heading', { name: 'Lowmere Navigation' }).waitFor();
    await page.getByRole('link', { name: /Passages/ }).click();
    await says('Rows 1–50 of 20,000');
    expect(await page.title()).toBe('Passages');
  });
});

describe('pages', () => {
  it('go first, previous, next, last, by number, by jump and in another size', async () => {
    await open('/tables/passages');
    await says('Rows 1–50 of 20,000');
    await page.getByRole('button', { name: 'Next' }).click();
    await says('Rows 51–100 of 20,000');
    await page.getByRole('button', { name: 'Last' }).click();
    await says('Rows 19,951–20,000 of 20,000');
    expect(await page.getByRole('button', { name: 'Next' }).isDisabled()).toBe(true);
    await page.getByRole('button', { name: 'Previous' }).click();
    await says('Rows 19,901–19,950 of 20,000');
    await page.getByRole('button', { name: 'Page 400' }).click();
    await says('Rows 19,951–20,000 of 20,000');
    await page.getByLabel('Go to page').fill('7');
    await page.getByLabel('Go to page').press('Enter');
    await says('Rows 301–350 of 20,000');
    expect(page.url()).toBe(`${service.url}/tables/passages?page=7`);
    await page.getByRole('button', { name: '50 per page' }).click();
    await page.getByRole('radio', { name: '200 per page' }).click();
    await says('Rows 1–200 of 20,000');
    expect(page.url()).toBe(`${service.url}/tables/passages?limit=200`);
  });

  it('are in the address: reload, back and forward show the same', async () => {
    await open('/tables/passages?filter=toll+%3E+100&sort=toll&page=2');
    await says(/^Rows 51–100 of /);
    await loaded();
    const before = await cells('Toll');
    await page.reload();
    await says(/^Rows 51–100 of /);
    await loaded();
    expect(await cells('Toll')).toEqual(before);
    await page.getByRole('button', { name: 'Next' }).click();
    await says(/^Rows 101–150 of /);
    await page.goBack();
    await says(/^Rows 51–100 of /);
    await page.goForward();
    await says(/^Rows 101–150 of /);
    await page.getByRole('button', { name: 'First', exact: true }).click();
    expect(page.url()).toBe(`${service.url}/tables/passages?filter=toll+%3E+100&sort=toll`);
  });
});

describe('sorting', () => {
  it('goes from none to ascending to descending to none by clicks on a header', async () => {
    await open('/tables/passages');
    await loaded();
    const header = page.getByRole('columnheader', { name: /^Toll/ });
    const label = header.getByRole('button', { name: /^Toll/ });
    const states = [await header.getAttribute('aria-sort')];
    for (let clicks = 0; clicks < 3; clicks += 1) {
      await label.click();
      await loaded();
      states.push(await header.getAttribute('aria-sort'));
      if (clicks === 0) expect((await cells('Toll'))[0]).toBe('ƒ 4.00');
    }
    expect(states).toEqual(['none', 'ascending', 'descending', 'none']);
    expect(page.url()).toBe(`${service.url}/tables/passages`);
  });

  it('adds a second column with Shift, and says so in the sentence', async () => {
    await open('/tables/passages');
    await loaded();
    await page.getByRole('button', { name: /^Status/ }).click();
    await page.getByRole('button', { name: /^Toll/ }).click({ modifiers: ['Shift'] });
    await page.getByRole('button', { name: /^Toll/ }).click({ modifiers: ['Shift'] });
    expect(page.url()).toBe(`${service.url}/tables/passages?sort=status%2C-toll`);
    await until(() => sentence().textContent(), /by status, then highest toll first, 50 per page/);
  });

  it('turns the column of the own sort around', async () => {
    await open('/tables/passages');
    await loaded();
    const header = page.getByRole('columnheader', { name: /^Passed at/ });
    expect(await header.getAttribute('aria-sort')).toBe('descending');
    await header.getByRole('button', { name: /^Passed at/ }).click();
    expect(await header.getAttribute('aria-sort')).toBe('ascending');
    await header.getByRole('button', { name: /^Passed at/ }).click();
    expect(page.url()).toBe(`${service.url}/tables/passages`);
  });
});

describe('filtering', () => {
  it('takes a condition as text and marks what is wrong at its place', async () => {
    await open('/tables/passages');
    const field = page.getByLabel('Filter', { exact: true });
    await field.fill("status = 'disputed' AND tol > 100");
    await field.press('Enter');
    const problem = page.getByRole('alert').filter({ hasText: 'Unknown column tol' }).first();
    await problem.waitFor();
    expect(await problem.textContent()).toContain('Did you mean toll?');
    expect(await field.getAttribute('aria-invalid')).toBe('true');
    // The mark begins under the 25th character of a monospaced text.
    const [mark, box, width] = await Promise.all([
      page.getByTestId('filter-mark').boundingBox(),
      field.boundingBox(),
      field.evaluate((input: HTMLInputElement) => {
        const canvas = document.createElement('canvas').getContext('2d');
        if (canvas === null) return 0;
        canvas.font = getComputedStyle(input).font;
        return canvas.measureText('0').width;
      }),
    ]);
    expect(((mark?.x ?? 0) - (box?.x ?? 0)) / width).toBeCloseTo(24, 0);
    await field.fill("status = 'disputed' AND toll > 100");
    await field.press('Enter');
    await says(/^Rows 1–\d+ of \d+$/);
    await until(
      () => sentence().textContent(),
      /where status is disputed and toll is above ƒ 100.00,/,
    );
  });

  it('takes conditions per column from the header and shows them there', async () => {
    await open('/tables/passages');
    await page.getByLabel('Filter Toll').click();
    await page.getByLabel('From').fill('abc');
    await page.getByRole('button', { name: 'Apply' }).click();
    await page.getByRole('alert').waitFor();
    await page.getByLabel('From').fill('150');
    await page.getByRole('button', { name: 'Apply' }).click();
    await until(() => Promise.resolve(page.url()), /filter=toll\+%3E%3D\+150$/);

    await page.getByLabel('Filter Status').click();
    await page.getByLabel('disputed').check();
    await page.getByLabel('waived').check();
    await page.getByRole('button', { name: 'Apply' }).click();
    await page.getByLabel('Filter Note').click();
    await page.getByRole('radio', { name: 'contains' }).click();
    await page.getByRole('textbox', { name: 'contains' }).fill('100%');
    await page.getByRole('button', { name: 'Apply' }).click();
    expect(await page.getByLabel('Filter', { exact: true }).inputValue()).toBe(
      "toll >= 150 AND status IN ('disputed', 'waived') AND CASEI(note) LIKE CASEI('%100\\%%')",
    );
    await page.getByLabel('Filter Note').click();
    expect(await page.getByRole('textbox', { name: 'contains' }).inputValue()).toBe('100%');
    await page.getByRole('button', { name: 'Remove' }).click();
    await until(
      () => page.getByLabel('Filter', { exact: true }).inputValue(),
      "toll >= 150 AND status IN ('disputed', 'waived')",
    );
    await says(/^Rows 1–\d+ of \d+$/);
  });

  it('is changed where the sentence says it', async () => {
    await open('/tables/passages?filter=toll+%3E%3D+150+AND+keeper_id+IS+NULL');
    await page.getByRole('button', { name: /toll is at least/ }).click();
    await page.getByRole('button', { name: 'Remove' }).click();
    await until(() => page.getByLabel('Filter', { exact: true }).inputValue(), 'keeper_id IS NULL');
    await page.getByRole('button', { name: '+ Filter' }).click();
    await page.getByRole('dialog').getByRole('button', { name: 'Direction' }).click();
    await page.getByLabel('up').check();
    await page.getByRole('button', { name: 'Apply' }).click();
    await until(
      () => page.getByLabel('Filter', { exact: true }).inputValue(),
      "keeper_id IS NULL AND direction = 'up'",
    );
    // What a row refers to is found by a word of its name.
    await page.getByRole('button', { name: '+ Filter' }).click();
    await page.getByLabel('Search columns').fill('canal name');
    const found = page.getByRole('dialog').getByRole('listitem');
    await until(async () => String(await found.count()), '1');
    await found.getByRole('button').click();
    await page.getByLabel('Wend Cut').check();
    await page.getByRole('button', { name: 'Apply' }).click();
    await until(
      () => page.getByLabel('Filter', { exact: true }).inputValue(),
      "keeper_id IS NULL AND direction = 'up' AND lock.canal.name = 'Wend Cut'",
    );
    await says(/^Rows 1–\d+ of \d+$/);
  });
});

describe('the four states', () => {
  it('loading: placeholders of the height of rows, without any data', async () => {
    let release: (value?: unknown) => void = () => undefined;
    const observed = new Promise((resolve) => {
      release = resolve;
    });
    await page.route('**/rows?*', async (route) => {
      await observed;
      await route.continue();
    });
    await open('/tables/passages');
    await page.locator('.eph-row').first().waitFor();
    const busy = await page
      .locator('.eph-row')
      .evaluateAll((rows) =>
        rows.map((row) => [row.textContent, row.getBoundingClientRect().height]),
      );
    expect(new Set(busy.map(([, height]) => height))).toEqual(new Set([34]));
    expect(busy.every(([text]) => text === '')).toBe(true);
    release();
    await says('Rows 1–50 of 20,000');
    expect(
      await page
        .locator('.eph-row')
        .first()
        .evaluate((row) => row.getBoundingClientRect().height),
    ).toBe(34);
  });

  it('empty table, and nothing matches with a way to clear', async () => {
    const database = await freshDatabase('ephoros_empty', [
      'create table bare (id int primary key)',
    ]);
    const other = await startService(database.url, '', { consoleFolder });
    try {
      await page.goto(`${other.url}/tables/bare`);
      await page.getByTestId('empty').waitFor();
      await page.goto(`${other.url}/tables/bare?filter=id+%3D+1`);
      await page.getByTestId('nothing-matches').waitFor();
      await page.getByRole('button', { name: 'Clear filter' }).click();
      await page.getByTestId('empty').waitFor();
    } finally {
      await other.close();
      await database.drop();
    }
  });

  it('another table by now: it is shown as it is, without a reload', async () => {
    const database = await freshDatabase('ephoros_altered', [
      'create table bare (id int primary key, old_name text not null)',
      "insert into bare select n, 'row ' || n from generate_series(1, 120) n",
    ]);
    const other = await startService(database.url, '', { consoleFolder });
    try {
      await page.goto(`${other.url}/tables/bare`);
      await page.getByRole('columnheader', { name: 'Old name' }).waitFor();
      await perform(database.url, ['alter table bare rename old_name to new_name']);
      await page.getByRole('button', { name: 'Next' }).click();
      await page.getByRole('columnheader', { name: 'New name' }).waitFor();
      await page.getByText('row 51', { exact: true }).waitFor();
      expect(await page.getByRole('columnheader', { name: 'Old name' }).count()).toBe(0);
    } finally {
      await other.close();
      await database.drop();
    }
  });

  it('failed: with the reason and a retry', async () => {
    let broken = true;
    await page.route('**/rows?*', (route) => (broken ? route.abort() : route.continue()));
    await open('/tables/passages');
    await page.getByText('The service cannot be reached.').waitFor();
    broken = false;
    // It is tried again by itself, too: whichever comes first.
    await page
      .getByRole('button', { name: 'Try again' })
      .click({ timeout: 5_000 })
      .catch(() => undefined);
    await says('Rows 1–50 of 20,000');
  });

  it('refused: an address that asks for nonsense, and a page behind the end is the last one', async () => {
    await open('/tables/passages?sort=pased_at&page=x');
    await page.getByTestId('refused').getByText('Did you mean passed_at?').waitFor();
    // Of rows that nobody means nothing is stated.
    expect(await page.getByTestId('position').count()).toBe(0);
    await page.getByRole('button', { name: 'Remove it' }).click();
    await says('Rows 1–50 of 20,000');
    // What cannot even be read stays in the address until it is left out.
    await open('/tables/passages?filter=toll+%3E&widths=toll:x');
    await page.getByTestId('refused').waitFor();
    await page.getByRole('columnheader', { name: /^Toll/ }).getByText('Toll').click();
    await until(() => Promise.resolve(page.url()), /sort=toll.*filter=toll\+%3E/);
    await page.getByRole('button', { name: 'Clear', exact: true }).click();
    await until(() => Promise.resolve(page.url()), /\?sort=toll&widths=toll%3Ax$/);
    await page.getByRole('button', { name: 'Remove it' }).click();
    await says('Rows 1–50 of 20,000');
    expect(page.url()).toBe(`${service.url}/tables/passages?sort=toll`);
    await open('/tables/passages?page=9999');
    await says('Rows 19,951–20,000 of 20,000');
    expect(page.url()).toBe(`${service.url}/tables/passages?page=400`);
    await open('/tables/nothing');
    await page.getByText('Unknown table nothing.').waitFor();
  });
});

describe('values', () => {
  it("are set by their kind: numbers right, dates in the reader's zone, nulls and booleans unlike text", async () => {
    await open('/tables/passages?filter=id+%3D+5&columns=id,passed_at,toll,note');
    await loaded();
    const toll = page.locator('[role=gridcell][aria-colindex="4"]');
    expect(await toll.getAttribute('data-align')).toBe('end');
    expect(await toll.evaluate((cell) => getComputedStyle(cell).fontVariantNumeric)).toContain(
      'tabular-nums',
    );
    const moment = page.locator('[role=gridcell][aria-colindex="3"] span');
    const exact = (await moment.getAttribute('title')) ?? '';
    expect(exact).toMatch(/^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ$/);
    const expected = new Intl.DateTimeFormat('en-GB', {
      day: 'numeric',
      month: 'short',
      year: 'numeric',
      hour: '2-digit',
      minute: '2-digit',
      timeZone: 'America/New_York',
    });
    expect(await moment.textContent()).toBe(expected.format(new Date(exact)));
    expect(await page.locator('[role=gridcell][aria-colindex="5"] .eph-null').count()).toBe(1);
    await open('/tables/canals');
    await loaded();
    expect(await page.locator('.eph-yes').count()).toBe(2);
    expect(await page.locator('.eph-no').count()).toBe(6);
    await open('/tables/boats?limit=50');
    await loaded();
    const picture = page.locator('.eph-picture').first();
    await until(
      () => picture.evaluate((image: HTMLImageElement) => String(image.naturalWidth > 0)),
      'true',
    );
  });
});
