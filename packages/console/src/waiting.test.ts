import type { Route } from 'playwright-core';
import { button, deskOver } from './testing/desk.ts';
import { grid, open, page, position, until } from './testing/fixtures.ts';

deskOver('ephoros_waiting_desk');

const scan = (): Promise<string> =>
  page
    .getByTestId('looking')
    .textContent({ timeout: 1_000 })
    .then((text) => text ?? '')
    .catch(() => '');

/** Answers requests for rows as if the service took long. */
async function rowsBy(answer: (route: Route, first: boolean) => Promise<void>): Promise<void> {
  await page.unroute(/\/rows\?/);
  await page.route(/\/rows\?/, (route) => {
    const wanted = new URL(route.request().url()).searchParams;
    const place = wanted.get('offset') ?? wanted.get('after') ?? '0';
    return answer(route, place === '0');
  });
}

const notReady = (route: Route, share: number): Promise<void> =>
  route.fulfill({
    status: 202,
    contentType: 'application/json',
    body: JSON.stringify({ status: 'running', progress: { share, elapsed: 1_000 } }),
  });

/** The real answer, as if so many rows had been looked through, and only the first `found` were found. */
async function partly(route: Route, found: number, rows: number): Promise<void> {
  const response = await route.fetch();
  const answer = (await response.json()) as {
    rows: unknown[];
    window: Record<string, unknown>;
  };
  const scanned = { rows, of: 10_000_000 };
  const window = { ...answer.window, total: found, totalKind: 'estimate', scanned };
  await route.fulfill({
    response,
    json: { ...answer, rows: answer.rows.slice(0, found), window, next: 'later' },
  });
}

describe('what takes the service long', () => {
  it('is stated while a place is being found, and is there by itself', async () => {
    let share = 0.43;
    await rowsBy((route, first) =>
      first || share === 1 ? route.continue() : notReady(route, share),
    );
    await open('/tables/berths?reading=scroll');
    await page.getByText('Berth 2', { exact: true }).first().waitFor();
    await grid().focus();
    await page.keyboard.press('Control+End');
    await until(scan, /^Finding row \d+ … 43 %$/);
    expect(await page.getByRole('alert').count()).toBe(0);
    share = 0.86;
    await until(scan, /86 %/);
    share = 1;
    await page.getByText('Berth 121', { exact: true }).first().waitFor();
    await until(scan, '');
  });

  it('has nothing requested next to it that is of no use before', async () => {
    let [share, startedAt] = [0.2, 0];
    await rowsBy((route) => (share === 1 ? route.continue() : notReady(route, share)));
    page.on('request', (request) => {
      if (request.url().includes('/aggregates')) startedAt += 1;
    });
    await open(`/tables/berths?paint=${encodeURIComponent(JSON.stringify([{ bar: 'fee' }]))}`);
    await until(scan, /20 %/);
    share = 0.4;
    await until(scan, /40 %/);
    expect(startedAt).toBe(0);
    share = 1;
    await page.locator('.eph-cell[data-measure=bar]').first().waitFor();
    expect(startedAt).toBe(1);
  });

  it('shows what was found so far, and can be stopped and gone on with', async () => {
    let [found, rows] = [0, 1_200_000];
    await rowsBy((route) => (rows < 10_000_000 ? partly(route, found, rows) : route.continue()));
    await open('/tables/berths?search=berth');
    await until(scan, /^0 matches in 1,200,000 of 10,000,000 rows/);
    await page.getByText('No matches so far.').waitFor();
    [found, rows] = [14, 3_200_000];
    await until(scan, /^14 matches in 3,200,000 of 10,000,000 rows/);
    expect(await page.locator('.eph-row').count()).toBeGreaterThanOrEqual(14);
    await button('Stop').click();
    await until(scan, /\(Stopped\)/);
    [found, rows] = [20, 4_000_000];
    await button('Continue').click();
    await until(scan, /^20 matches in 4,000,000/);
    rows = 10_000_000;
    await until(scan, '');
    await position().getByText('of 120').waitFor();
  });
});
