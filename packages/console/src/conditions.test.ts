import { button, deskOver, dialog } from './testing/desk.ts';
import { drawn, loaded, open, page, says, sentence, until } from './testing/fixtures.ts';

deskOver('console_conditions');

describe('the builder of conditions', () => {
  const where = (): Promise<string> => page.getByRole('textbox', { name: 'Filter' }).inputValue();

  it('says what the line and the sentence say, and they what it says', async () => {
    await open("/tables/berths?filter=state='free'");
    await loaded();
    await button('Filter builder').click();
    await dialog().getByText('Add group').first().click();
    const inner = dialog().locator('fieldset fieldset');
    await inner.getByText('Add condition').click();
    await inner.getByRole('button', { name: 'Fee', exact: true }).click();
    await inner.getByLabel('Operator').selectOption('atLeast');
    await inner.getByLabel('Value').fill('100');
    await inner.getByRole('button', { name: 'Apply' }).click();
    await until(where, "state = 'free' AND fee >= 100");
    await inner.getByText('Add condition').click();
    await inner.getByRole('button', { name: 'Name', exact: true }).click();
    await inner.getByLabel('Operator').selectOption('ends');
    await inner.getByLabel('Value').fill('3');
    await inner.getByRole('button', { name: 'Apply' }).click();
    await until(where, "state = 'free' AND (fee >= 100 OR CASEI(name) LIKE CASEI('%3'))");
    expect(await sentence().innerText()).toContain('fee is at least 100 or name ends with “3”');
    await inner.getByLabel('Match').selectOption('none');
    await until(where, "state = 'free' AND NOT (fee >= 100 OR CASEI(name) LIKE CASEI('%3'))");
    // By keys a part goes out of its branch.
    await dialog()
      .getByRole('button', { name: /^Move fee is at least/ })
      .press('Shift+ArrowUp');
    await until(where, "state = 'free' AND fee >= 100 AND CASEI(name) NOT LIKE CASEI('%3')");
    await dialog().getByRole('button', { name: 'Remove state is “free”' }).click();
    await until(where, "fee >= 100 AND CASEI(name) NOT LIKE CASEI('%3')");
    await page.keyboard.press('Escape');
    await page.getByRole('textbox', { name: 'Filter' }).fill("fee < 4 OR state = 'shut'");
    await page.keyboard.press('Enter');
    await button('Filter builder').click();
    expect(await dialog().getByLabel('Match').inputValue()).toBe('any');
    // Conditions that were used before are offered.
    await dialog()
      .getByRole('button', { name: /^fee is at least 100 and/ })
      .click();
    await until(where, "fee >= 100 AND CASEI(name) NOT LIKE CASEI('%3')");
  });

  it('leaves the keyboard where a reader goes from it', async () => {
    await open('/tables/berths');
    await button('Filter builder').click();
    await dialog().getByText('Add group').first().waitFor();
    await page.getByRole('textbox', { name: 'Filter' }).click();
    await dialog().waitFor({ state: 'detached' });
    await drawn();
    await page.keyboard.type('fee > 3');
    await until(where, 'fee > 3');
    await button('Filter builder').click();
    await dialog().getByText('Add group').first().waitFor();
    await page.keyboard.press('Escape');
    await until(
      () => page.evaluate(() => document.activeElement?.textContent ?? ''),
      'Filter builder',
    );
  });

  it('says that rows refer to a row, and what of them', async () => {
    await open('/tables/quays');
    await button('Filter builder').click();
    await dialog().getByText('Add related rows').click();
    await dialog()
      .getByRole('button', { name: /has any berths/ })
      .click();
    const inner = dialog().locator('fieldset fieldset');
    await inner.getByText('Add condition').click();
    await inner.getByRole('button', { name: 'Fee', exact: true }).click();
    await inner.getByLabel('Operator').selectOption('more');
    await inner.getByLabel('Value').fill('118');
    await inner.getByRole('button', { name: 'Apply' }).click();
    await until(where, /HAS\(berths, fee > 118\)$/);
    await says('Rows 1–1 of 1');
  });
});

describe('conditions of the table itself', () => {
  it('hold whatever a reader does, and are stated', async () => {
    await open('/tables/berths');
    await says('Rows 1–50 of 120');
    expect(await sentence().innerText()).toMatch(/^Berths where fee is above 0/);
    expect(await sentence().getByRole('button', { name: 'fee is above' }).count()).toBe(0);
    await page.getByRole('textbox', { name: 'Filter' }).fill('id < 10');
    await page.keyboard.press('Enter');
    await says('Rows 1–8 of 8');
  });

  it('are begun with until a reader removes them, also after a reload', async () => {
    await open('/tables/quays');
    await says('Rows 1–2 of 2');
    await button('Clear').click();
    await says('Rows 1–3 of 3');
    await page.reload();
    await says('Rows 1–3 of 3');
    await page.getByRole('textbox', { name: 'Filter' }).fill("name = 'South'");
    await page.keyboard.press('Enter');
    await says('Rows 1–1 of 1');
  });
});

it('marks in the cells what was searched for', async () => {
  await open('/tables/berths?search=berth+12');
  await says(/^Rows 1–\d of \d$/);
  await page.locator('.eph-cell mark').first().waitFor();
  const marks = await page.locator('.eph-cell mark').allTextContents();
  expect(new Set(marks.map((text) => text.toLowerCase()))).toEqual(new Set(['berth', '12']));
});
