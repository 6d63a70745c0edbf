import { addressSays, button, deskOver, dialog } from './testing/desk.ts';
import { loaded, open, page, says, sentence, until } from './testing/fixtures.ts';

deskOver('console_charts');

describe('a chart', () => {
  const bars = (): ReturnType<typeof page.locator> => page.locator('.eph-chart [data-mark]');

  it('is drawn of groups, follows the condition, and narrows it', async () => {
    await open('/tables/berths');
    await loaded();
    await button('Chart').click();
    await dialog().getByLabel('By').selectOption({ label: 'State' });
    await dialog()
      .locator('label', { hasText: /^Value/ })
      .locator('select')
      .selectOption({ label: 'Sum: Fee' });
    await button('Show chart').click();
    await addressSays('chart', 'bars,state,sum(fee)');
    await bars().nth(2).waitFor();
    await button('Numbers').click();
    const numbers = page.locator('.eph-chart-numbers td');
    expect((await numbers.allTextContents()).every((text) => /^[\d,.]+$/.test(text))).toBe(true);
    expect(await page.locator('.eph-chart-numbers tbody th').allTextContents()).toHaveLength(3);
    await button('Chart').click();
    await bars().first().click();
    await until(
      () => page.getByRole('textbox', { name: 'Filter' }).inputValue(),
      /^state = '\w+'$/,
    );
    await says(/^Rows 1–40 of 40$/);
    await until(() => bars().count().then(String), '1');
    const saved = page.waitForEvent('download');
    await button('SVG').click();
    expect((await saved).suggestedFilename()).toBe('berths-bars.svg');
    const picture = page.waitForEvent('download');
    await button('PNG').click();
    expect((await picture).suggestedFilename()).toBe('berths-bars.png');
    await button('Remove chart').click();
    await addressSays('chart', '');
  });

  it('shows how often values occur, how they are spread, and the largest of many', async () => {
    await open('/tables/berths?chart=histogram,fee');
    await bars().first().waitFor();
    expect(await bars().count()).toBeGreaterThan(5);
    await bars().last().click();
    await until(
      () => page.getByRole('textbox', { name: 'Filter' }).inputValue(),
      /^fee >= 1\d\d.* AND fee <= 120/,
    );
    await open('/tables/berths?chart=spread,state,fee');
    await until(() => bars().count().then(String), '3');
    await open('/tables/berths?chart=bars,name');
    await page.getByText('the largest 40 of 120').waitFor();
    await open("/tables/berths?chart=line,bin(opened,'P1M','America/New_York')");
    await bars().first().click();
    await until(() => sentence().innerText(), /opened is between|opened is not before/);
  });

  it('is not drawn anew where the table is, so that no press on it is lost', async () => {
    await open("/tables/berths?chart=line,bin(opened,'P1M','America/New_York')");
    await bars().first().waitFor();
    await loaded();
    await bars()
      .first()
      .evaluate((mark) => mark.setAttribute('data-same', 'true'));
    await button('Appearance').click();
    await dialog().getByText('Small', { exact: true }).click();
    await addressSays('density', 'compact');
    await page.keyboard.press('Escape');
    await until(() => page.locator('.eph-chart [data-same]').count().then(String), '1');
    await bars().first().click();
    await until(() => sentence().innerText(), /opened is between|opened is not before/);
  });

  it('that cannot be drawn says why, and the rows are there', async () => {
    await open('/tables/berths?chart=bars,gone');
    await page.locator('.eph-chart').getByRole('alert').waitFor();
    await says('Rows 1–50 of 120');
  });
});
